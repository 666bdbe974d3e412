/* What a board gives beside its port: a serial line, sleep, bytes that keep
 * without power. */
#ifndef CUPLATCH_FIRMWARE_BOARD_H
#define CUPLATCH_FIRMWARE_BOARD_H

#include "cuplatch/journal.h"
#include "cuplatch/port.h"

/* The site and where its things are connected, as `bake` wrote them. */
extern const struct cup_site baked;
extern CUP_FLASH struct cup_pin baked_pins[];

/* Clock, serial line and watchdog run from here on. Outputs are safe already,
 * since the first instructions after reset. */
struct cup_port *board_begin(void);

/* One raw sample of what is at a pin, within 50 ms; what has no answer says so,
 * and is never a number. */
struct cup_sample board_sample(struct cup_pin pin);

/* Says a byte; waits until the line has taken it, at most 2 ms. */
void board_say(char byte);

/* The next byte that was heard; -1 when there is none. */
int board_heard(void);

/* Sleeps until something may be due, at most so many ms; a byte that is heard
 * wakes it. */
void board_sleep(uint32_t ms);

/* Where the journal lies; null on a board without such bytes. */
const struct cup_store *board_store(void);

#endif
