/* Chips by what a pins file calls them. */
#ifndef CUPLATCH_PORTS_CHIPS_H
#define CUPLATCH_PORTS_CHIPS_H

#include "gpio.h"

/* More than any machine has. */
#define CHIPS_MOST 32

/* Opens a chip by its number, name or label; -1, and `wrong` says what there
 * is instead. */
int chip_find(const char *chip, struct gpio_chip *about, char *wrong,
              size_t size);

/* The number of a chip; -1 when there is no such chip. */
int chip_number(const char *chip);

/* How many lines it has; 0 when there is no such chip. */
int chip_lines(const char *chip);

/* Why lines of a chip could not be had, from errno. */
void chip_refusal(int chip, const struct gpio_ask *ask, char *wrong,
                  size_t size);

/* Holds lines of a chip found by its name; -1, and `wrong` says why. */
int chip_hold(const char *chip, struct gpio_ask *ask, char *wrong, size_t size);

#endif
