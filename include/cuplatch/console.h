/* The console: the same words over a serial line, the stream, or a socket.
 * Text in, text out; no heap.
 *
 *     lift hand 5m            steer; answers "done" or why not
 *     ask levels              one line a sensor or tank
 *     ask pumps | duties | alerts | settings | days
 *     ask why lift            why a pump or a duty is as it is
 *     look                    at a board: raw values as they come, for a minute
 *
 * In use:
 *
 *     const struct cup_printer printer = {.line = print_line};
 *     struct cup_console console = {0};
 *     while (read_byte(&byte))
 *         cup_console_take(&console, site, now_ms, byte, &printer); */
#ifndef CUPLATCH_CONSOLE_H
#define CUPLATCH_CONSOLE_H

#include "say.h"

CUP_C_BEGINS

/* Where answers go, a whole line at a time, without its end. `line` is gone
 * after the call. */
struct cup_printer {
    void (*line)(void *self, const char *text);
    void *self;
};

/* Answers one line; a leading "tell" or "ask" may be left out. Returns false
 * when it was not understood or was refused, and the answer says why. */
bool cup_console_line(const struct cup_site *site, uint32_t now_ms,
                      const char *text, const struct cup_printer *printer);

/* Says what stands, as "ask alerts" does, and nothing where nothing stands.
 * Returns how many lines that were. */
unsigned cup_console_alerts(const struct cup_site *site,
                            const struct cup_printer *printer);

/* The longest line that is taken in. */
#define CUP_CONSOLE_MOST 79

/* A line that comes byte by byte. All zero is empty. `looks` is set by the line
 * "look" and by nothing else: raw values are wanted, by whoever has them, who
 * clears it. */
struct cup_console {
    char text[CUP_CONSOLE_MOST + 1];
    uint8_t used;
    bool too_long;
    bool looks;
};

/* Takes one byte; a line ends with CR or LF and is answered at once. A line
 * that is too long is refused whole. */
void cup_console_take(struct cup_console *console, const struct cup_site *site,
                      uint32_t now_ms, char byte,
                      const struct cup_printer *printer);

CUP_C_ENDS

#endif
