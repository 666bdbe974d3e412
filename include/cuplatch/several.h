/* Several probes for one place: what they say together.
 *
 * In use:
 *
 *     const cup_value said[] = {3120, 3350, 1980};
 *     tell_of_it(cup_several_take(CUP_TAKES_MIDDLE, said, 3)); */
#ifndef CUPLATCH_SEVERAL_H
#define CUPLATCH_SEVERAL_H

#include "base.h"

CUP_C_BEGINS

/* The most probes of one place. */
#define CUP_SEVERAL_MOST 8

/* What is taken of them: their mean, the lowest, the highest, or the middle
 * one, which no single probe can move. */
enum cup_takes {
    CUP_TAKES_MEAN,
    CUP_TAKES_LOWEST,
    CUP_TAKES_HIGHEST,
    CUP_TAKES_MIDDLE
};

/*   of        the sensors, `count` of them
 *   apart     one that is farther than this from the middle strays; 0: none
 *   at_least  how many must be usable, or there is no value
 *   takes     an enum cup_takes
 *   own       the number of its state */
struct cup_several {
    CUP_FLASH cup_index *of;
    cup_value apart;
    cup_index own;
    uint8_t count;
    uint8_t at_least;
    uint8_t takes;
};

/* Which of them stray, a bit each, and which of these were told; and of those
 * that did, how many samples in a row they have agreed since: they have no vote
 * before CUP_SEVERAL_AGREES. */
#define CUP_SEVERAL_AGREES 3
struct cup_several_state {
    uint8_t strays;
    uint8_t told;
    uint8_t mute; /* had strayed, and have no vote yet */
    uint8_t agreed[CUP_SEVERAL_MOST];
};

/* What is taken of `count` values, 1 to CUP_SEVERAL_MOST; the middle of an even
 * number is the mean of the middle two. Means are rounded half away from
 * zero. 0 of no value, or of too many. */
cup_value cup_several_take(enum cup_takes takes, const cup_value *values,
                           uint8_t count);

/* Whether a probe strays that did (`strays`) or did not: farther than `apart`
 * from the middle, until it is within three quarters of that. */
bool cup_several_strays(CUP_FLASH struct cup_several *several, bool strays,
                        cup_value value, cup_value middle);

CUP_C_ENDS

#endif
