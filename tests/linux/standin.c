/* A machine in a folder, in place of the kernel's: chips are files with four
 * bytes a line (its level, whether it is an output, two spare), a line is held
 * by a lock of its byte, which the kernel lets go with whoever held it. Lines
 * whose edges are read have a pipe beside the chip. A line that falls pings the
 * one behind it, whose echo is as long as a file beside the chip says. */
#include <errno.h>
#include <fcntl.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <time.h>
#include <unistd.h>

#include "../../ports/linux/gpio.h"
#include "../../ports/linux/machine.h"

#define LINE_BYTES 4
#define OUTPUT_AT 1
#define HELD_MOST 64

/* What is held, by its descriptor: of a line with edges that is the pipe. */
struct held {
    int fd;
    int file;
    int chip;
    struct gpio_ask ask;
};
static struct held all[HELD_MOST];
static size_t count;

const char *machine_root(void)
{
    const char *root = getenv("CUPLATCH_STANDIN");
    return root ? root : "/nowhere";
}

int machine_pause_ms(void)
{
    return 2;
}

static int chip_file(int number)
{
    char path[200];
    snprintf(path, sizeof(path), "%s/chip%d", machine_root(), number);
    return open(path, O_RDWR | O_CLOEXEC);
}

int gpio_open(int number, struct gpio_chip *about)
{
    struct stat info;
    int fd = chip_file(number);
    if (fd < 0 || fstat(fd, &info) != 0)
        return -1;
    *about = (struct gpio_chip){.lines = (int)(info.st_size / LINE_BYTES)};
    snprintf(about->name, sizeof(about->name), "gpiochip%d", number);
    snprintf(about->label, sizeof(about->label), number ? "shed" : "bench");
    return fd;
}

static struct flock lock_of(unsigned line, short type)
{
    return (struct flock){.l_type = type,
                          .l_whence = SEEK_SET,
                          .l_start = (off_t)line * LINE_BYTES,
                          .l_len = 1};
}

bool gpio_look(int chip, unsigned line, struct gpio_line *about)
{
    struct stat info;
    struct flock lock = lock_of(line, F_WRLCK);
    uint8_t output = 0;
    if (fstat(chip, &info) != 0 || (off_t)line * LINE_BYTES >= info.st_size)
        return false;
    *about = (struct gpio_line){.output = false};
    (void)!pread(chip, &output, 1, (off_t)line * LINE_BYTES + OUTPUT_AT);
    about->output = output;
    if (fcntl(chip, F_OFD_GETLK, &lock) == 0 && lock.l_type != F_UNLCK)
        snprintf(about->user, sizeof(about->user), "cuplatch");
    return true;
}

static bool put_byte(int file, unsigned line, off_t at, uint8_t byte)
{
    return pwrite(file, &byte, 1, (off_t)line * LINE_BYTES + at) == 1;
}

static uint8_t level_of(int file, unsigned line)
{
    uint8_t level = 0;
    (void)!pread(file, &level, 1, (off_t)line * LINE_BYTES);
    return level;
}

static bool lock_all(int file, const struct gpio_ask *ask)
{
    for (size_t i = 0; i < ask->count; i++) {
        struct flock lock = lock_of(ask->lines[i], F_WRLCK);
        if (fcntl(file, F_OFD_SETLK, &lock) != 0) {
            errno = EBUSY;
            return false;
        }
    }
    return true;
}

static int edge_pipe(int number, unsigned line, int how)
{
    char path[200];
    snprintf(path, sizeof(path), "%s/chip%d.edges%u", machine_root(), number,
             line);
    mkfifo(path, 0600);
    return open(path, how | O_NONBLOCK | O_CLOEXEC);
}

/* The number of the chip behind a descriptor. */
static int number_of(int chip)
{
    char link[40];
    char path[200] = "";
    snprintf(link, sizeof(link), "/proc/self/fd/%d", chip);
    (void)!readlink(link, path, sizeof(path) - 1);
    const char *name = strrchr(path, '/');
    return name ? atoi(name + sizeof("/chip") - 1) : 0;
}

int gpio_hold(int chip, struct gpio_ask *ask)
{
    int number = number_of(chip);
    int file = chip_file(number);
    if (file < 0 || count == HELD_MOST)
        return -1;
    if (!lock_all(file, ask)) {
        close(file);
        return -1;
    }
    for (size_t i = 0; i < ask->count && ask->outputs; i++) {
        if (level_of(file, ask->lines[i]))
            ask->found |= UINT64_C(1) << i;
        put_byte(file, ask->lines[i], 0, ask->first >> i & 1u);
        put_byte(file, ask->lines[i], OUTPUT_AT, 1);
    }
    int fd = ask->edges ? edge_pipe(number, ask->lines[0], O_RDWR) : file;
    all[count++] =
        (struct held){.fd = fd, .file = file, .chip = number, .ask = *ask};
    return fd;
}

static struct held *held_of(int fd)
{
    for (size_t i = count; i-- > 0;)
        if (all[i].fd == fd)
            return &all[i];
    abort();
}

static void ping(const struct held *held, unsigned line)
{
    char path[200];
    double us = 0;
    struct timespec now;
    snprintf(path, sizeof(path), "%s/chip%d.us%u", machine_root(), held->chip,
             line);
    FILE *in = fopen(path, "r");
    if (!in)
        return;
    if (fscanf(in, "%lf", &us) != 1)
        us = 0;
    fclose(in);
    if (us <= 0)
        return;
    clock_gettime(CLOCK_MONOTONIC, &now);
    uint64_t ns = (uint64_t)now.tv_sec * 1000000000u + (uint64_t)now.tv_nsec;
    struct gpio_edge edges[2] = {
        {.ns = ns, .sequence = 1, .line = line, .rising = true},
        {.ns = ns + (uint64_t)(us * 1000), .sequence = 2, .line = line}};
    int out = edge_pipe(held->chip, line, O_WRONLY);
    (void)!write(out, edges, sizeof(edges));
    close(out);
}

bool gpio_set(int fd, uint64_t mask, uint64_t bits)
{
    const struct held *held = held_of(fd);
    for (size_t i = 0; i < held->ask.count; i++) {
        unsigned line = held->ask.lines[i];
        uint8_t high = bits >> i & 1u;
        if (!(mask >> i & 1u))
            continue;
        if (!high && level_of(held->file, line))
            ping(held, line + 1);
        if (!put_byte(held->file, line, 0, high))
            return false;
    }
    return true;
}

bool gpio_get(int fd, uint64_t mask, uint64_t *bits)
{
    const struct held *held = held_of(fd);
    *bits = 0;
    for (size_t i = 0; i < held->ask.count; i++)
        if ((mask >> i & 1u) && level_of(held->file, held->ask.lines[i]))
            *bits |= UINT64_C(1) << i;
    return true;
}

bool gpio_edge(int fd, struct gpio_edge *edge)
{
    return read(fd, edge, sizeof(*edge)) == (ssize_t)sizeof(*edge);
}
