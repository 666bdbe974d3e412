/* What a pump may do in a day. */
#include "cuplatch/per_day.h"

void cup_per_day_begin(struct cup_per_day_state *state, uint32_t now_ms,
                       uint32_t run_ms, bool is_on)
{
    state->began_ms = now_ms;
    state->ran_ms = 0;
    state->before_ms = run_ms;
    state->starts = is_on;
}

bool cup_per_day_is_over(struct cup_per_day_state *state, uint32_t now_ms,
                         uint16_t today)
{
    if (today == 0) {
        if (cup_elapsed(now_ms, state->began_ms) < CUP_DAY_MS)
            return false;
    } else if (state->date == 0 || state->date > today + 1) {
        state->date = today;
        return false;
    } else if (today <= state->date) {
        return false;
    }
    state->date = today;
    return true;
}

void cup_per_day_start(struct cup_per_day_state *state)
{
    state->before_ms = 0;
    if (state->starts < UINT16_MAX)
        state->starts++;
}

/* Running time of this day so far; it can't pass a day by much. */
static uint32_t ran_today(const struct cup_per_day_state *state,
                          uint32_t run_ms)
{
    return state->ran_ms + (run_ms - state->before_ms);
}

void cup_per_day_stop(struct cup_per_day_state *state, uint32_t run_ms)
{
    state->ran_ms = ran_today(state, run_ms);
    state->before_ms = 0;
}

uint32_t cup_per_day_left(CUP_FLASH struct cup_per_day *day,
                          const struct cup_per_day_state *state,
                          uint32_t run_ms)
{
    uint32_t most = day->time_ms > 0 ? day->time_ms : UINT32_MAX;
    if (day->volume_ms > 0)
        most = cup_least(most, day->volume_ms);
    if (most == UINT32_MAX)
        return most;
    uint32_t ran = ran_today(state, run_ms);
    return ran < most ? most - ran : 0;
}

uint8_t cup_per_day_cause(CUP_FLASH struct cup_per_day *day,
                          const struct cup_per_day_state *state,
                          uint32_t run_ms, bool is_on, struct cup_cause *cause)
{
    uint32_t ran = ran_today(state, run_ms);
    if (day->time_ms > 0 && ran >= day->time_ms)
        return cup_cause_set(cause, CUP_REASON_DAY_TIME, (int32_t)ran,
                             (int32_t)day->time_ms);
    if (day->volume_ms > 0 && ran >= day->volume_ms)
        return cup_cause_set(cause, CUP_REASON_DAY_VOLUME,
                             (int32_t)day->volume_ml, (int32_t)day->volume_ml);
    if (!is_on && day->starts > 0 && state->starts >= day->starts)
        return cup_cause_set(cause, CUP_REASON_DAY_STARTS, state->starts,
                             day->starts);
    return CUP_REASON_NONE;
}
