/* The kernel's lines of general use, by its character device (uAPI v2): all
 * that is asked of it stands behind these six functions. A tests' stand-in has
 * the same. */
#ifndef CUPLATCH_PORTS_GPIO_H
#define CUPLATCH_PORTS_GPIO_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

/* Lines that one request may hold. */
#define GPIO_LINES_MOST 64

struct gpio_chip {
    char name[32];
    char label[32];
    int lines;
};

struct gpio_line {
    char name[32];
    char user[32]; /* who has it; empty: nobody */
    bool output;
};

/* What lines are asked for.
 *   outputs  as outputs, at `first` (a bit a line) from the same call on; what
 *            they were before is left in `found`
 *   edges    both edges of inputs are kept to be read
 *   pull     as the pins file says: 0 as it is, 1 up, 2 down, 3 off */
struct gpio_ask {
    const char *user;
    uint32_t lines[GPIO_LINES_MOST];
    size_t count;
    bool outputs;
    bool edges;
    int pull;
    uint64_t first;
    uint64_t found;
};

struct gpio_edge {
    uint64_t ns;       /* the kernel's time of it */
    uint32_t sequence; /* of this line: none is lost unseen */
    uint32_t line;
    bool rising;
};

/* Opens the chip of a number, and says what it is; -1 with errno. */
int gpio_open(int number, struct gpio_chip *about);

bool gpio_look(int chip, unsigned line, struct gpio_line *about);

/* Asks for lines; they are held until what is returned is closed. -1 with
 * errno: EBUSY when somebody else has one. */
int gpio_hold(int chip, struct gpio_ask *ask);

/* Sets and reads held lines, by their place in what was asked. */
bool gpio_set(int held, uint64_t mask, uint64_t bits);
bool gpio_get(int held, uint64_t mask, uint64_t *bits);

/* The next edge that was kept, once it can be read; false when there is none.
 */
bool gpio_edge(int held, struct gpio_edge *edge);

#endif
