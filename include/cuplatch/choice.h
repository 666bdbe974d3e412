/* What a person chose: that a pump or a duty is off, or the site on hold, for
 * so long or until they say otherwise. It stands until then, and whether
 * anything asks for what it keeps off is told once a day.
 *
 * In use:
 *
 *     struct cup_choice_state state = {0};
 *     cup_choice_take(&state, now_ms, 7200000);
 *     if (cup_choice_step(&state, now_ms) == CUP_CHOICE_OVER)
 *         clear_all(); */
#ifndef CUPLATCH_CHOICE_H
#define CUPLATCH_CHOICE_H

#include "base.h"

CUP_C_BEGINS

enum {
    CUP_CHOICE_STANDS = 1,    /* off, or on hold */
    CUP_CHOICE_ENDS = 2,      /* ... by itself, after left_ms */
    CUP_CHOICE_ASKED = 4,     /* something asked today for what it keeps off */
    CUP_CHOICE_TOLD = 8,      /* ... and that was told on a day before */
    CUP_CHOICE_NEW = 16,      /* it came or went, and that was not told */
    CUP_CHOICE_SKIP = 32,     /* of a duty: its next run is left out ... */
    CUP_CHOICE_SKIPS = 64,    /* ... and that was not told */
    CUP_CHOICE_STRANGE = 128, /* of the site: some of the record has no name */
    CUP_CHOICE_KEPT = 256,    /* of a duty on which nobody chose: it asks and is
                                 kept off since since_ms, */
    CUP_CHOICE_KEPT_TOLD = 512 /* ... and that was told */
};

#define CUP_CHOICE_DAY_MS (UINT32_C(24) * 3600 * 1000)

/* All zero is the beginning.
 *   since_ms  when it was said, or a number of whole days later
 *   left_ms   from then
 *   days      those; saturates */
struct cup_choice_state {
    uint32_t since_ms;
    uint32_t left_ms;
    uint16_t days;
    uint16_t flags;
};
CUP_ASSERT(sizeof(struct cup_choice_state) == 12, "state has no padding");

static inline bool cup_choice_is(const struct cup_choice_state *state,
                                 unsigned flags)
{
    return (state->flags & flags) != 0;
}

/* A person says so, for that long; for_ms 0: without end. What stands is never
 * shortened by it. */
void cup_choice_take(struct cup_choice_state *state, uint32_t now_ms,
                     uint32_t for_ms);

/* It stands no more. */
void cup_choice_end(struct cup_choice_state *state);

/* What became of it: it is over by itself; or one more day is. */
enum cup_choice_says { CUP_CHOICE_NOTHING, CUP_CHOICE_DAY, CUP_CHOICE_OVER };
enum cup_choice_says cup_choice_step(struct cup_choice_state *state,
                                     uint32_t now_ms);

/* ms until cup_choice_step() has something to say; UINT32_MAX: never. */
uint32_t cup_choice_wait(const struct cup_choice_state *state, uint32_t now_ms);

/* ms until it ends by itself; 0: it does not. */
uint32_t cup_choice_left(const struct cup_choice_state *state, uint32_t now_ms);

/* The power was off for so long while it stood. */
void cup_choice_age(struct cup_choice_state *state, uint32_t off_ms);

CUP_C_ENDS

#endif
