/* Where an output is that takes its time. */
#include "cuplatch/travel.h"

#include "cuplatch/curve.h"

static uint16_t goal(CUP_FLASH struct cup_travel *travel, bool on)
{
    return on ? CUP_TRAVEL_OPEN : travel->safe_pct100;
}

static uint16_t way(uint16_t from, uint16_t to)
{
    return from > to ? (uint16_t)(from - to) : (uint16_t)(to - from);
}

void cup_travel_boot(CUP_FLASH struct cup_travel *travel,
                     struct cup_travel_state *state, uint32_t now_ms)
{
    state->since_ms = now_ms;
    state->from_pct100 =
        travel->safe_pct100 < CUP_TRAVEL_OPEN / 2 ? CUP_TRAVEL_OPEN : 0;
    state->is_moving = travel->all_ms > 0;
}

uint16_t cup_travel_place(CUP_FLASH struct cup_travel *travel,
                          const struct cup_travel_state *state, uint32_t now_ms,
                          bool on)
{
    uint16_t to = goal(travel, on);
    uint32_t gone = cup_elapsed(now_ms, state->since_ms);
    if (!state->is_moving || gone >= travel->all_ms)
        return to;
    uint32_t made = cup_scale(CUP_TRAVEL_OPEN, gone, travel->all_ms);
    if (made >= way(state->from_pct100, to))
        return to;
    return (uint16_t)(state->from_pct100 > to ? state->from_pct100 - made
                                              : state->from_pct100 + made);
}

void cup_travel_reverse(CUP_FLASH struct cup_travel *travel,
                        struct cup_travel_state *state, uint32_t now_ms,
                        bool on)
{
    state->from_pct100 = cup_travel_place(travel, state, now_ms, !on);
    state->since_ms = now_ms;
    state->is_moving = travel->all_ms > 0;
}

uint32_t cup_travel_left(CUP_FLASH struct cup_travel *travel,
                         struct cup_travel_state *state, uint32_t now_ms,
                         bool on)
{
    uint16_t left = way(state->from_pct100, goal(travel, on));
    uint32_t all = cup_scale(left, travel->all_ms, CUP_TRAVEL_OPEN);
    uint32_t ms = state->is_moving ? cup_left(now_ms, state->since_ms, all) : 0;
    state->is_moving = ms > 0;
    return ms;
}
