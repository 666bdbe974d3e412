/* The tries of a duty. A run that reaches its longest and does not do its job
 * is a trip of the duty: its pump goes on serving others, and the duty tries
 * again after a pause, so many times, then it is locked until a person clears
 * it. Only a finished job of its own, or a person, sets its count back.
 *
 * In use:
 *
 *     static const uint32_t retry_ms = 600000;
 *     struct cup_tries_state state = {0};
 *     cup_tries_fail(&state, now_ms, 3);
 *     if (cup_tries_left(&state, now_ms, &retry_ms) == 0)
 *         ask_for_water(); */
#ifndef CUPLATCH_TRIES_H
#define CUPLATCH_TRIES_H

#include "reason.h"

CUP_C_BEGINS

enum {
    CUP_TRIES_TRIPPED = 1, /* it asks for nothing until its pause is over */
    CUP_TRIES_LOCKED = 2,  /* ... or until it is cleared */
    CUP_TRIES_CLEARED = 4  /* it was cleared, and that was not told */
};

/* All zero is the beginning.
 *   since_ms  the last trip
 *   trips     failed runs in a row; saturates */
struct cup_tries_state {
    uint32_t since_ms;
    uint8_t trips;
    uint8_t flags;
    uint16_t spare;
};
CUP_ASSERT(sizeof(struct cup_tries_state) == 8, "state has no padding");

/* Counts a failed run. Returns CUP_KIND_TRIP, or CUP_KIND_LOCK when none of its
 * `retries` is left. */
enum cup_kind cup_tries_fail(struct cup_tries_state *state, uint32_t now_ms,
                             uint8_t retries);

/* ms until it asks again, 0 when it may; UINT32_MAX while it is locked. Ends a
 * pause that is over. */
uint32_t cup_tries_left(struct cup_tries_state *state, uint32_t now_ms,
                        CUP_FLASH uint32_t *retry_ms);

/* Whether it asks for nothing until its pause is over, or it is cleared. */
static inline bool cup_tries_rests(const struct cup_tries_state *state)
{
    return state->flags & CUP_TRIES_TRIPPED;
}

/* Its job is done, or a person says that all is well. */
void cup_tries_clear(struct cup_tries_state *state);

/* Why it asks for nothing. Fills `cause`, but for what it is about, and returns
 * its reason; NONE when it may ask. */
uint8_t cup_tries_cause(const struct cup_tries_state *state, uint32_t now_ms,
                        uint32_t retry_ms, struct cup_cause *cause);

CUP_C_ENDS

#endif
