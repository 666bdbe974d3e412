/* Folders, processes and waiting. */
#include "bench.h"

#include <fcntl.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <time.h>
#include <unistd.h>

#define LINES 40
#define LINE_BYTES 4
#define PATHS 4

static char folder[100];

const char *bench_path(const char *name)
{
    static char paths[PATHS][200];
    static int next;
    char *path = paths[next++ % PATHS];
    snprintf(path, sizeof(paths[0]), "%s/%s", folder, name);
    return path;
}

static void make_folders(const char *path)
{
    char part[200];
    for (const char *at = path + 1; *at; at++)
        if (*at == '/') {
            snprintf(part, sizeof(part), "%.*s", (int)(at - path), path);
            mkdir(part, 0700);
        }
}

void bench_write(const char *name, const char *text)
{
    const char *path = bench_path(name);
    make_folders(path);
    FILE *out = fopen(path, "w");
    if (!out)
        abort();
    fputs(text, out);
    fclose(out);
}

void bench_make(const char *name)
{
    char zeros[LINES * LINE_BYTES] = {0};
    snprintf(folder, sizeof(folder), "/tmp/cup_machine.%s.%d", name,
             (int)getpid());
    for (int chip = 0; chip < 2; chip++) {
        char file[8];
        snprintf(file, sizeof(file), "chip%d", chip);
        bench_write(file, "");
        int fd = open(bench_path(file), O_WRONLY);
        if (write(fd, zeros, sizeof(zeros)) != (ssize_t)sizeof(zeros))
            abort();
        close(fd);
    }
    setenv("CUPLATCH_STANDIN", folder, 1);
    setenv("TZ", "UTC", 1);
}

void bench_remove(void)
{
    char command[200];
    snprintf(command, sizeof(command), "rm -rf %s", folder);
    if (system(command) != 0)
        abort();
}

static int open_chip(int chip)
{
    char file[8];
    snprintf(file, sizeof(file), "chip%d", chip);
    return open(bench_path(file), O_RDWR);
}

bool bench_level(int chip, int line)
{
    uint8_t level = 0;
    int fd = open_chip(chip);
    if (pread(fd, &level, 1, (off_t)line * LINE_BYTES) != 1)
        abort();
    close(fd);
    return level;
}

void bench_put(int chip, int line, bool high)
{
    uint8_t level = high;
    int fd = open_chip(chip);
    if (pwrite(fd, &level, 1, (off_t)line * LINE_BYTES) != 1)
        abort();
    close(fd);
}

static void begin_words(const char **argv, int *argc, const char *first)
{
    argv[(*argc)++] = "cuplatch";
    argv[(*argc)++] = first;
}

static pid_t start(const char *log, const char *const *argv)
{
    pid_t pid = fork();
    if (pid != 0)
        return pid;
    int out =
        open(bench_path(log), O_WRONLY | O_CREAT | O_TRUNC | O_APPEND, 0600);
    dup2(out, STDOUT_FILENO);
    dup2(out, STDERR_FILENO);
    execv(CUPLATCH_STANDIN, (char *const *)argv);
    _exit(127);
}

pid_t bench_run(const char *const *more)
{
    const char *argv[32];
    int argc = 0;
    char site[200];
    char pins[200];
    char at[200];
    snprintf(site, sizeof(site), "%s", bench_path("site.ini"));
    snprintf(pins, sizeof(pins), "%s", bench_path("pins.ini"));
    snprintf(at, sizeof(at), "%s", bench_path("socket"));
    begin_words(argv, &argc, "run");
    const char *const own[] = {site, "--port",   "linux", "--pins",
                               pins, "--socket", at};
    for (size_t i = 0; i < sizeof(own) / sizeof(own[0]); i++)
        argv[argc++] = own[i];
    while (more && *more)
        argv[argc++] = *more++;
    argv[argc] = NULL;
    return start("log", argv);
}

pid_t bench_begin_pins(const char *const *words)
{
    const char *argv[16];
    int argc = 0;
    begin_words(argv, &argc, "pins");
    while (*words)
        argv[argc++] = *words++;
    argv[argc] = NULL;
    return start("said", argv);
}

int bench_pins(const char *const *words)
{
    int status;
    pid_t pid = bench_begin_pins(words);
    return waitpid(pid, &status, 0) == pid && WIFEXITED(status)
               ? WEXITSTATUS(status)
               : -1;
}

int bench_pins_off(void)
{
    char site[200];
    char pins[200];
    snprintf(site, sizeof(site), "%s", bench_path("site.ini"));
    snprintf(pins, sizeof(pins), "%s", bench_path("pins.ini"));
    const char *const words[] = {site, pins, "--off", NULL};
    return bench_pins(words);
}

static int64_t now_ms(void)
{
    struct timespec now;
    clock_gettime(CLOCK_MONOTONIC, &now);
    return (int64_t)now.tv_sec * 1000 + now.tv_nsec / 1000000;
}

void bench_nap(int ms)
{
    struct timespec span = {ms / 1000, ms % 1000 * 1000000L};
    nanosleep(&span, NULL);
}

int bench_wait_level(int chip, int line, bool high, int most_ms)
{
    int64_t began = now_ms();
    while (bench_level(chip, line) != high) {
        if (now_ms() - began > most_ms)
            return -1;
        bench_nap(1);
    }
    return (int)(now_ms() - began);
}

int bench_count_log(const char *text)
{
    char line[400];
    int count = 0;
    FILE *in = fopen(bench_path("log"), "r");
    while (in && fgets(line, sizeof(line), in))
        count += strstr(line, text) != NULL;
    if (in)
        fclose(in);
    return count;
}

bool bench_wait_log(const char *text, int times, int most_ms)
{
    int64_t began = now_ms();
    while (bench_count_log(text) < times) {
        if (now_ms() - began > most_ms)
            return false;
        bench_nap(5);
    }
    return true;
}

/* The newest child that is what is looked for; 0: none is. */
static pid_t child_that(pid_t parent, bool (*is)(pid_t child, const void *what),
                        const void *what)
{
    char path[64];
    int child = 0;
    pid_t found = 0;
    snprintf(path, sizeof(path), "/proc/%d/task/%d/children", (int)parent,
             (int)parent);
    FILE *in = fopen(path, "r");
    while (in && fscanf(in, "%d", &child) == 1)
        if (is(child, what))
            found = child;
    if (in)
        fclose(in);
    return found;
}

/* A worker is a group of its own. */
static bool leads(pid_t child, const void *what)
{
    (void)what;
    return getpgid(child) == child;
}

pid_t bench_worker(pid_t guardian)
{
    return child_that(guardian, leads, NULL);
}

static bool is_other(pid_t child, const void *what)
{
    return child != *(const pid_t *)what;
}

pid_t bench_other_child(pid_t parent, pid_t beside)
{
    return child_that(parent, is_other, &beside);
}

static bool has_open(pid_t pid, const void *what)
{
    for (int fd = 3; fd < 64; fd++) {
        char link[64];
        char to[300] = "";
        snprintf(link, sizeof(link), "/proc/%d/fd/%d", (int)pid, fd);
        if (readlink(link, to, sizeof(to) - 1) > 0 && strcmp(to, what) == 0)
            return true;
    }
    return false;
}

pid_t bench_child_with(pid_t parent, const char *name)
{
    return child_that(parent, has_open, bench_path(name));
}

int bench_end(pid_t guardian, int signal)
{
    int status = -1;
    kill(guardian, signal);
    for (int i = 0; i < 4000; i++) {
        if (waitpid(guardian, &status, WNOHANG) == guardian)
            return WIFEXITED(status) ? WEXITSTATUS(status) : -1;
        bench_nap(5);
    }
    return -1;
}

/* What a command that talks to the controller says. */
static const char *talk(const char *command_name, const char *words)
{
    static char text[4096];
    char command[400];
    snprintf(command, sizeof(command), "%s %s --socket %s %s 2>&1",
             CUPLATCH_STANDIN, command_name, bench_path("socket"), words);
    FILE *in = popen(command, "r");
    size_t length = in ? fread(text, 1, sizeof(text) - 1, in) : 0;
    text[length] = '\0';
    if (in)
        pclose(in);
    return text;
}

const char *bench_ask(const char *question)
{
    return talk("ask", question);
}

const char *bench_tell(const char *word)
{
    return talk("tell", word);
}
