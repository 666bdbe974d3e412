/* Day or night. */
#include "cuplatch/day.h"

#include "cuplatch/turn.h"

bool cup_within(uint16_t from, uint16_t to, uint16_t minute)
{
    if (from == to || minute == CUP_NO_MINUTE)
        return false;
    if (from < to)
        return minute >= from && minute < to;
    return minute >= from || minute < to;
}

/* A light that can't be read says nothing new: a crossing begins afresh. */
static uint32_t look_at_light(CUP_FLASH struct cup_day *day,
                              struct cup_latch_state *state, uint32_t now_ms,
                              bool usable, cup_mark value, bool sampled,
                              bool *is_dark)
{
    struct cup_latch room;
    CUP_NUMBERS struct cup_latch *latch = cup_latch_of(&day->latch, &room);
    if (!usable) {
        state->samples = 0;
        return UINT32_MAX;
    }
    cup_latch_step(latch, state, now_ms, value, sampled);
    *is_dark = cup_latch_past_stop(latch, value);
    return CUP_USES_QUIET ? cup_latch_left(latch, state, now_ms) : 0;
}

/* What is known now, from what was known before. */
static unsigned flags_of(unsigned before, bool is_day, bool is_night, bool said)
{
    unsigned now = before & (CUP_DAY_KNOWN | CUP_DAY_WAS_NIGHT);
    if (is_day)
        now |= CUP_DAY_IS_DAY;
    if (is_day && !(before & CUP_DAY_IS_DAY))
        now |= CUP_DAY_IS_DAWN;
    if (said)
        now |= CUP_DAY_KNOWN;
    if (!is_day && (is_night || (before & CUP_DAY_IS_DAY)))
        now |= CUP_DAY_WAS_NIGHT;
    return now;
}

uint32_t cup_day_step(CUP_FLASH struct cup_day *day,
                      struct cup_latch_state *state, uint32_t now_ms,
                      bool usable, cup_mark value, bool sampled,
                      uint16_t minute)
{
    uint32_t left = UINT32_MAX;
    bool timed = CUP_IF(CLOCK, day->from != day->to && minute != CUP_NO_MINUTE);
    bool is_dark = false;
    if (day->light != CUP_NONE)
        left =
            look_at_light(day, state, now_ms, usable, value, sampled, &is_dark);
    bool is_day =
        state->on || CUP_IF(CLOCK, cup_within(day->from, day->to, minute));
    (void)minute;
    state->own[0] = (uint8_t)flags_of(state->own[0], is_day, is_dark || timed,
                                      usable || timed);
    return left;
}
