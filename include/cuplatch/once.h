/* What comes and goes is told when it comes, and then at the soonest once every
 * `repeat`; what it does in between is counted. That it is over is told only of
 * what was told.
 *
 * In use:
 *
 *     struct cup_once_state state = {0};
 *     if (cup_once_comes(&state, now_ms, 3600000))
 *         sound_the_horn(); */
#ifndef CUPLATCH_ONCE_H
#define CUPLATCH_ONCE_H

#include "base.h"

CUP_C_BEGINS

enum {
    CUP_ONCE_SPOKE = 1, /* it was told before, at told_ms */
    CUP_ONCE_TOLD = 2,  /* it is there, and that was told */
    CUP_ONCE_THERE = 4  /* it is there */
};

/* All zero is the beginning.
 *   unsaid  how often it came since it was told, and was not; saturates */
struct cup_once_state {
    uint32_t told_ms;
    uint16_t unsaid;
    uint16_t flags;
};
CUP_ASSERT(sizeof(struct cup_once_state) == 8, "state has no padding");

/* It comes, or is there: whether that is to be told now. Then `unsaid` of what
 * came before is for the caller to say and to set to 0. repeat_ms 0: always. */
bool cup_once_comes(struct cup_once_state *state, uint32_t now_ms,
                    uint32_t repeat_ms);

/* Whether it was told lately, so that it would not be told now if it came, or
 * was not as it did. */
bool cup_once_is_hushed(const struct cup_once_state *state, uint32_t now_ms,
                        uint32_t repeat_ms);

/* It is gone: whether that is to be told. */
bool cup_once_goes(struct cup_once_state *state);

/* ms until what is there and was not told may be; UINT32_MAX: nothing is. */
uint32_t cup_once_left(const struct cup_once_state *state, uint32_t now_ms,
                       uint32_t repeat_ms);

CUP_C_ENDS

#endif
