/* What a board gives this program. board_pc.c is one on a desk; board_yours.c
 * is to be filled in. Numbers of lines and channels are those of garden.ini:
 * port = relay:7 is line 7. */
#ifndef BOARD_H
#define BOARD_H

#include <stdbool.h>
#include <stdint.h>

/* First of all: every output where it does no harm. */
void board_begin(void);

/* Milliseconds, from anywhere on, wrapping as 32 bits do. */
uint32_t board_now_ms(void);

/* A raw count of a channel; false: there is none. Never a made-up one. */
bool board_count(uint8_t channel, int32_t *count);

/* Whether a contact is closed. */
bool board_closed(uint8_t line);

/* Puts a line high or low. False when it does not obey. */
bool board_put(uint8_t line, bool high);

/* A text for people, without an end of line. */
void board_say(const char *text);

/* The watchdog, once a pass; and nothing to do for so long. */
void board_feed(void);
void board_sleep(uint32_t ms);

/* Whether to go on; a real board always does. */
bool board_goes_on(void);

#endif
