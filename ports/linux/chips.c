/* Finds chips, and says what is the matter with their lines. */
#include "chips.h"

#include <errno.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

static bool is_it(const char *chip, int number, const struct gpio_chip *about)
{
    char *end;
    long wanted = strtol(chip, &end, 10);
    if (end != chip && !*end)
        return wanted == number;
    return strcmp(chip, about->name) == 0 || strcmp(chip, about->label) == 0;
}

static void add_known(char *known, size_t size, int number,
                      const struct gpio_chip *about)
{
    size_t used = strlen(known);
    snprintf(known + used, size - used, "%s%d (%s, %d lines)", used ? ", " : "",
             number, about->label, about->lines);
}

int chip_find(const char *chip, struct gpio_chip *about, char *wrong,
              size_t size)
{
    char known[200] = "";
    bool refused = false;
    for (int number = 0; number < CHIPS_MOST; number++) {
        int fd = gpio_open(number, about);
        if (fd < 0 && errno == EACCES)
            refused = true;
        if (fd < 0)
            continue;
        if (is_it(chip, number, about))
            return fd;
        add_known(known, sizeof(known), number, about);
        close(fd);
    }
    if (*known)
        snprintf(wrong, size, "there is no such chip; here are %s", known);
    else if (refused)
        snprintf(wrong, size,
                 "this user may not open the chips; join the "
                 "group that /dev/gpiochip0 belongs to");
    else
        snprintf(wrong, size, "this machine has no chip with lines at all");
    return -1;
}

int chip_number(const char *chip)
{
    for (int number = 0; number < CHIPS_MOST; number++) {
        struct gpio_chip about;
        int fd = gpio_open(number, &about);
        if (fd < 0)
            continue;
        close(fd);
        if (is_it(chip, number, &about))
            return number;
    }
    return -1;
}

int chip_lines(const char *chip)
{
    char wrong[8];
    struct gpio_chip about;
    int fd = chip_find(chip, &about, wrong, sizeof(wrong));
    if (fd < 0)
        return 0;
    close(fd);
    return about.lines;
}

void chip_refusal(int chip, const struct gpio_ask *ask, char *wrong,
                  size_t size)
{
    int why = errno;
    struct gpio_line about;
    snprintf(wrong, size, "%s", strerror(why));
    for (size_t i = 0; i < ask->count; i++) {
        if (!gpio_look(chip, ask->lines[i], &about)) {
            snprintf(wrong, size, "there is no line %u of it",
                     (unsigned)ask->lines[i]);
            return;
        }
        if (why == EBUSY && *about.user) {
            snprintf(wrong, size, "line %u is in use by %s",
                     (unsigned)ask->lines[i], about.user);
            return;
        }
    }
}

int chip_hold(const char *chip, struct gpio_ask *ask, char *wrong, size_t size)
{
    struct gpio_chip about;
    int fd = chip_find(chip, &about, wrong, size);
    if (fd < 0)
        return -1;
    int held = gpio_hold(fd, ask);
    if (held < 0)
        chip_refusal(fd, ask, wrong, size);
    close(fd);
    return held;
}
