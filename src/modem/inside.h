/* What the files of the block share. */
#ifndef CUPLATCH_MODEM_INSIDE_H
#define CUPLATCH_MODEM_INSIDE_H

#include "cuplatch/modem.h"

/* The next letter of a text in UTF-8, and past it; what is none is '?'. 0 at
 * the end. */
uint32_t cup_letter(const char **text);

/* How many of the 160 a letter takes: 1 or 2; 0: it is not in the alphabet. */
uint8_t cup_letter_takes(uint32_t letter);

/* Where the first message of a text ends, between two words if it can, and
 * whether its letters are UCS2. */
const char *cup_message_end(const char *text, bool *wide);

/* Four digits of a half of a letter; returns past them. */
char *cup_put_digits(char *out, uint16_t half);

/* The value of a hexadecimal digit; 16: it is none. */
uint8_t cup_digit(char byte);

/* Adds a letter to a message that came, if there is room. */
void cup_hear_letter(struct cup_modem *modem, uint32_t letter);

/* Of a line "+CMGR: ..." number and time; false: it has none. */
bool cup_read_head(const char *line, struct cup_message *message);

/* The number that comes as field `which` (from 0) after the colon of a line;
 * UINT16_MAX: there is none. */
uint16_t cup_read_field(const char *line, uint8_t which);

/* Whether a line begins with a word. */
bool cup_begins(const char *line, CUP_FLASH char *word);

#endif
