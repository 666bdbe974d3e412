/* Numbers as people read them: in which unit, with how many decimals. */
#ifndef CUPLATCH_TELL_SHOW_H
#define CUPLATCH_TELL_SHOW_H

#include "cuplatch/say.h"

/* Which way a number is rounded that is shown with fewer decimals than it has.
 */
enum cup_lean { CUP_LEAN_DOWN = -1, CUP_LEAN_NEAREST, CUP_LEAN_UP };

/* A number without its sign, a point to come before its last decimals. */
struct cup_shown {
    CUP_FLASH char *symbol;
    uint32_t number;
    uint8_t decimals;
    bool minus;
};

/* What is shown of a value in a unit, metric or not. */
struct cup_shown cup_show(int32_t value, uint8_t unit, bool us,
                          enum cup_lean lean);

/* Whether two values look alike once rounded to the nearest: of those that
 * differ one is to lean up then, and one down. */
bool cup_shown_alike(int32_t a, int32_t b, uint8_t unit, bool us);

#endif
