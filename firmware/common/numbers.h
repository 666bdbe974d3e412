/* A console for a board without names, so without texts: what is asked for and
 * what it answers are numbers, but for the steering words themselves.
 *
 *     hand 9 90     pump 9 by hand for 90 s       off 9, auto 9, clear 9
 *     hold, go      the whole site
 *     ask           a line each for all sensors, tanks and pumps
 *     look          raw values as they come, for a minute
 *
 * Things are numbered as in events; `clear` takes a duty's number, too. A word
 * is answered by 0, or by the number of an enum cup_error. */
#ifndef CUPLATCH_FIRMWARE_NUMBERS_H
#define CUPLATCH_FIRMWARE_NUMBERS_H

#include "cuplatch/site.h"

/* The line that is being heard. All zero is the beginning. */
struct numbers {
    uint8_t count;
    bool looks; /* "look" was heard; who has the raw values clears it */
    char text[15];
};

/* Where answers go: a number at a time, `last` of its line or not. */
struct numbers_out {
    void (*say)(void *self, int32_t number, bool last);
    void *self;
};

/* Takes a byte. At the end of a line the word is taken in for the next pass and
 * answered. A line that is too long is answered by CUP_ERROR_NAME.
 *
 * `ask`, of a sensor or a tank: its number, quality (an enum cup_quality) and
 * value; of a pump: its number, what it shows (an enum cup_pump_show), and why:
 * what about, reason, value and limit. */
void numbers_take(struct numbers *numbers, const struct cup_site *site,
                  uint32_t now_ms, char byte, const struct numbers_out *out);

#endif
