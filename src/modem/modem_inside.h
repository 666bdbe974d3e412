/* What the files of the block share. */
#ifndef CUPLATCH_MODEM_INSIDE_H
#define CUPLATCH_MODEM_INSIDE_H

#include "cuplatch/modem.h"

/* What is done at a time; the order is that of patience. */
enum cup_step {
    QUIET, /* until nothing more comes of what was before */
    HELLO,
    ECHO_OFF,
    PIN_ASKED,
    PIN_GIVEN,
    LOCKED,
    FORM,
    LETTERS,
    TOLD,
    NETWORK,
    NETWORK_LATER, /* the same of newer networks */
    REST,
    COUNT,
    READ,
    FORGET,
    KIND,
    TO,
    TEXT,
    SENT
};

/* Puts the command of a step where it goes out from; some have none. */
void cup_put_command(struct cup_modem *modem, enum cup_step step);

/* The next letter of what is sent, and past it; what is none is '?'. 0 at the
 * end. */
uint32_t cup_letter(const struct cup_modem *modem, uint16_t *at);

/* How many of the 160 a letter takes: 1 or 2; 0: it is not in the alphabet. */
uint8_t cup_letter_takes(uint32_t letter);

/* Where the message that begins at `at` ends, between two words if it can, and
 * whether the letters are UCS2. */
uint16_t cup_message_end(const struct cup_modem *modem, bool *wide);

/* Four digits of a half of a letter; returns past them. */
char *cup_put_digits(char *out, uint16_t half);

/* The value of a hexadecimal digit; 16: it is none. */
uint8_t cup_digit(char byte);

/* Adds a letter to a message that came, if there is room. */
void cup_hear_letter(struct cup_modem *modem, uint32_t letter);

/* Of a line "+CMGR: ..." number and time; false: it has none. */
bool cup_read_head(struct cup_modem *modem);

/* The number that comes as field `which` (from 0) modem_after the colon of the
 * line; UINT16_MAX: there is none. */
uint16_t cup_read_field(const struct cup_modem *modem, uint8_t which);

/* Whether the line begins with a word; or is it. */
bool cup_begins(const struct cup_modem *modem, CUP_FLASH char *word);
bool cup_is_word(const struct cup_modem *modem, CUP_FLASH char *word);

#endif
