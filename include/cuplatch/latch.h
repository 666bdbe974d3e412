/* A latch decides between two marks. `start` below `stop` raises: water dry
 * soil, fill a tank. `start` above `stop` lowers: empty a sump, cool. Outside
 * the marks it switches, inside the band nothing changes; comparisons are
 * strict, and at boot inside the band it is off.
 *
 * In use:
 *
 *     const struct cup_latch bed = {.start = 3400, .stop = 6600};
 *     struct cup_latch_state state = {0};
 *     if (cup_latch_step(&bed, &state, now_ms, level, true))
 *         ask_for_water(); */
#ifndef CUPLATCH_LATCH_H
#define CUPLATCH_LATCH_H

#include "reason.h"

CUP_C_BEGINS

/* Marks in any unit, as long as what is compared with them is in the same. They
 * must differ; their values are told of.
 * A crossing must hold for confirm_ms, and over at least two samples, before
 * it counts; 0 means at once. */
struct cup_latch {
    cup_mark start;
    cup_mark stop;
    uint32_t confirm_ms;
    CUP_UNLESS(VALUES, cup_value start_value;)
    CUP_UNLESS(VALUES, cup_value stop_value;)
};

/* All zero is off. `own` is for what the latch belongs to. */
struct cup_latch_state {
    uint32_t since_ms;
    uint8_t on;
    uint8_t samples;
    uint8_t own[2];
};
CUP_ASSERT(sizeof(struct cup_latch_state) == 8, "state has no padding");

/* Takes what its marks are compared with. `sampled` says that it comes of a new
 * sample. Returns whether the latch is on. */
bool cup_latch_step(CUP_NUMBERS struct cup_latch *latch,
                    struct cup_latch_state *state, uint32_t now_ms,
                    cup_mark value, bool sampled);

/* How long until a crossing under way is confirmed, in ms; UINT32_MAX when
 * none is, or when it still wants a second sample. */
uint32_t cup_latch_left(CUP_NUMBERS struct cup_latch *latch,
                        const struct cup_latch_state *state, uint32_t now_ms);

/* A latch of a plan, where the calls here can read it: copied to `room` if
 * need be. */
static inline CUP_NUMBERS struct cup_latch *
cup_latch_of(CUP_FLASH struct cup_latch *plan, struct cup_latch *room)
{
#if CUP_NUMBERS_APART
    *room = *plan;
    return room;
#else
    (void)room;
    return plan;
#endif
}

/* Off at once: the value cannot be trusted any more. */
void cup_latch_release(struct cup_latch_state *state);

/* Whether a value is beyond the stop mark. */
bool cup_latch_past_stop(CUP_NUMBERS struct cup_latch *latch, cup_mark value);

/* Why the latch is as it is: `level` is what its marks are compared with, and
 * `value` what that is as a value. Fills `cause`, but for what it is about, and
 * returns its reason. */
uint8_t cup_latch_cause(CUP_NUMBERS struct cup_latch *latch,
                        const struct cup_latch_state *state, cup_mark level,
                        cup_value value, struct cup_cause *cause);

CUP_C_ENDS

#endif
