/* A serial line that may come and go. */
#ifndef CUPLATCH_SERVE_TEXTS_TTY_H
#define CUPLATCH_SERVE_TEXTS_TTY_H

#include <stdbool.h>
#include <stdint.h>
#include <sys/types.h>

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

/* What came, 0 if nothing did; a line that is gone is closed. */
ssize_t tty_read(struct tty *tty, char *bytes, size_t size);

/* Whether so many bytes can go out at once, and those. */
bool tty_has_room(const struct tty *tty, size_t count);
void tty_write(struct tty *tty, const char *bytes, size_t count);

void tty_close(struct tty *tty);

#endif
