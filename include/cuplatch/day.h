/* Day and night, by light or by the clock or by either. Light above a mark
 * for a time is day, below a lower mark for a time is night; a cloud or a
 * torch changes nothing.
 *
 * In use:
 *
 *     const struct cup_day day = {.latch = {.start = 5800, .stop = 4400}};
 *     struct cup_latch_state state = {0};
 *     cup_day_step(&day, &state, now_ms, true, level, true, CUP_NO_MINUTE);
 *     bool is_day = cup_day_flags(&state) & CUP_DAY_IS_DAY; */
#ifndef CUPLATCH_DAY_H
#define CUPLATCH_DAY_H

#include "latch.h"

CUP_C_BEGINS

/*   latch  start: day above; stop: night below; confirm: for so long
 *   light  the sensor; CUP_NONE: only the clock
 *   from, to  minutes of the day; equal: no such window */
struct cup_day {
    struct cup_latch latch;
    cup_index light;
    CUP_WHERE(CLOCK, uint16_t from;)
    CUP_WHERE(CLOCK, uint16_t to;)
};

enum {
    CUP_DAY_IS_DAY = 1,
    CUP_DAY_IS_DAWN = 2,  /* it became day in this pass */
    CUP_DAY_KNOWN = 4,    /* light or clock has said which */
    CUP_DAY_WAS_NIGHT = 8 /* it was seen to be night before */
};

/* Whether a minute of the day lies within a window, which may run over
 * midnight. A window from a minute to itself is none. */
bool cup_within(uint16_t from, uint16_t to, uint16_t minute);

/* Its flags are in the latch's first own byte. */
static inline uint8_t cup_day_flags(const struct cup_latch_state *state)
{
    return state->own[0];
}

/* Looks at light (`usable`, `value`, `sampled`) and clock (`minute` of the
 * day, CUP_NO_MINUTE without one). Returns ms until it wants to look again. */
uint32_t cup_day_step(CUP_FLASH struct cup_day *day,
                      struct cup_latch_state *state, uint32_t now_ms,
                      bool usable, cup_mark value, bool sampled,
                      uint16_t minute);

CUP_C_ENDS

#endif
