/* A serial line that may come and go. */
#ifndef CUPLATCH_SERVE_TEXTS_TTY_H
#define CUPLATCH_SERVE_TEXTS_TTY_H

#include <stdbool.h>
#include <stdint.h>

#include "cuplatch/modem.h"

/* `fresh` is set when the line was opened; who sees it clears it. */
struct tty {
    const char *path;
    int baud;
    int fd; /* -1: there is none */
    int pause_most_s;
    int pause_s;
    int64_t again_s;
    bool fresh;
    bool told;
};

/* Whether a number is a speed that a line can have. */
bool tty_is_baud(int baud);

/* Waits until there is something to read, so long at the most; opens it if need
 * be. False, after that time: there is no line. */
bool tty_wait(struct tty *tty, int ms);

/* What came is the modem's, and what it has goes out, as far as there is room;
 * a line that is gone is closed. */
void tty_exchange(struct tty *tty, struct cup_modem *modem, uint32_t now_ms);

void tty_close(struct tty *tty);

#endif
