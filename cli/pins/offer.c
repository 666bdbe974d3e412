/* Lists chips, channels, buses and lines of this machine, as sections of a pins
 * file. */
#include "offer.h"

#include <dirent.h>
#include <limits.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "../../ports/linux/chips.h"
#include "../../ports/linux/duct.h"
#include "../../ports/linux/machine.h"
#include "../common/cli.h"

/* Lines that say the same for themselves are told in one, from first to
 * last. */
static void show_run(int first, int last, const struct gpio_line *about)
{
    if (!*about->name && !*about->user)
        return;
    printf(";   line%s %d", first < last ? "s" : "", first);
    if (first < last)
        printf(" to %d", last);
    if (*about->name)
        printf("  %s", about->name);
    if (*about->user)
        printf("  in use by %s", about->user);
    putchar('\n');
}

static bool is_same(const struct gpio_line *one, const struct gpio_line *two)
{
    return strcmp(one->name, two->name) == 0 &&
           strcmp(one->user, two->user) == 0;
}

static void show_lines(int chip, const struct gpio_chip *about)
{
    struct gpio_line run = {.output = false};
    int first = 0;
    int plain = 0;
    for (int i = 0; i < about->lines; i++) {
        struct gpio_line line;
        if (!gpio_look(chip, (unsigned)i, &line))
            line = (struct gpio_line){.output = false};
        plain += !*line.name && !*line.user;
        if (i > first && !is_same(&line, &run)) {
            show_run(first, i - 1, &run);
            first = i;
        }
        run = line;
    }
    show_run(first, about->lines - 1, &run);
    if (plain > 0)
        printf(";   %d lines without a name that nobody uses\n", plain);
}

static bool show_chips(void)
{
    bool any = false;
    for (int i = 0; i < CHIPS_MOST; i++) {
        struct gpio_chip about;
        int chip = gpio_open(i, &about);
        if (chip < 0)
            continue;
        printf("%s; chip %d, %s: lines 0 to %d\n",
               any ? ""
                   : "[relay]\n"
                     "through = gpio\n",
               i, about.label, about.lines - 1);
        show_lines(chip, &about);
        printf("%schip = %s\n", any ? "; " : "", about.label);
        if (!any)
            puts("lines =          ; those you wired, relay:0 first");
        any = true;
        close(chip);
    }
    return any;
}

/* The entries of a folder of the machine, each by its own line. */
static bool each(const char *folder, const char *begins,
                 void (*tell)(const char *path, const char *name))
{
    char path[PATH_MAX];
    bool any = false;
    struct dirent **all = NULL;
    int length = snprintf(path, sizeof(path), "%s%s", machine_root(), folder);
    if (length < 0 || (size_t)length >= sizeof(path))
        return false;
    int count = scandir(path, &all, NULL, versionsort);
    for (int i = 0; i < count; i++) {
        const char *name = all[i]->d_name;
        if (strncmp(name, begins, strlen(begins)) == 0 && *name != '.') {
            tell(path, name);
            any = true;
        }
        free(all[i]);
    }
    free(all);
    return any;
}

static void show_channel(const char *path, const char *name)
{
    size_t length = strlen(name);
    (void)path;
    if (length > 7 && strcmp(name + length - 4, "_raw") == 0)
        printf(" %.*s", (int)(length - 7), name + 3);
}

static void show_iio(const char *path, const char *name)
{
    char file[PATH_MAX + 300];
    char label[80] = "";
    snprintf(file, sizeof(file), "%s/%s/name", path, name);
    if (duct_text(file, label, sizeof(label)))
        label[strcspn(label, "\n")] = '\0';
    printf("\n[adc]\nthrough = iio\ndevice = %s\nchannels =",
           *label ? label : name + strlen("iio:device"));
    snprintf(file, sizeof(file), "/sys/bus/iio/devices/%s", name);
    each(file, "in_", show_channel);
    putchar('\n');
}

static void show_w1(const char *path, const char *name)
{
    (void)path;
    if (strncmp(name, "w1_", 3) != 0)
        printf("\n[wire:0]\nthrough = w1\ndevice = %s\n", name);
}

static void show_i2c(const char *path, const char *name)
{
    (void)path;
    printf("\n; an I2C bus: bus = %s\n", name + strlen("i2c-"));
}

static void show_serial(const char *path, const char *name)
{
    (void)path;
    printf("\n[serial:0]\nthrough = serial\n"
           "device = /dev/serial/by-id/%s\nbaud = 9600\n",
           name);
}

int offer_show(void)
{
    bool any = show_chips();
    any |= each("/sys/bus/iio/devices", "iio:device", show_iio);
    any |= each("/sys/bus/w1/devices", "", show_w1);
    any |= each("/dev", "i2c-", show_i2c);
    any |= each("/dev/serial/by-id", "", show_serial);
    if (!any)
        fputs("cuplatch: this machine has no lines, channels, buses or serial "
              "lines\nthat a pins file could name, or this user may not see "
              "them; a program or a\nfile can still be read: "
              "\"man 5 cuplatch-pins\" tells how\n",
              stderr);
    return any ? EXIT_DONE : EXIT_NO;
}
