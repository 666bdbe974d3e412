/* Two marks, and nothing changes between them. */
#include "cuplatch/latch.h"

/* Past the mark that would switch it from where it is. */
static bool crossed(CUP_NUMBERS struct cup_latch *latch, bool on,
                    cup_mark value)
{
    return on ? cup_has_crossed(&latch->stop, &latch->start, value)
              : cup_has_crossed(&latch->start, &latch->stop, value);
}

bool cup_latch_step(CUP_NUMBERS struct cup_latch *latch,
                    struct cup_latch_state *state, uint32_t now_ms,
                    cup_mark value, bool sampled)
{
    if (!crossed(latch, state->on, value)) {
        state->samples = 0;
        return state->on;
    }
    if (state->samples == 0)
        state->since_ms = now_ms;
    if (state->samples == 0 || (sampled && state->samples < 2))
        state->samples++;
    if (latch->confirm_ms > 0 &&
        (state->samples < 2 ||
         cup_left(now_ms, state->since_ms, latch->confirm_ms) > 0))
        return state->on;
    state->on = !state->on;
    state->samples = 0;
    return state->on;
}

uint32_t cup_latch_left(CUP_NUMBERS struct cup_latch *latch,
                        const struct cup_latch_state *state, uint32_t now_ms)
{
    if (state->samples < 2)
        return UINT32_MAX;
    return cup_left(now_ms, state->since_ms, latch->confirm_ms);
}

bool cup_latch_past_stop(CUP_NUMBERS struct cup_latch *latch, cup_mark value)
{
    return crossed(latch, true, value);
}

void cup_latch_release(struct cup_latch_state *state)
{
    state->on = false;
    state->samples = 0;
}

_Static_assert(CUP_REASON_ABOVE_START == CUP_REASON_BELOW_START + 1 &&
                   CUP_REASON_ABOVE_STOP == CUP_REASON_BELOW_START + 2 &&
                   CUP_REASON_BELOW_STOP == CUP_REASON_BELOW_START + 3 &&
                   CUP_REASON_NO_NEED == CUP_REASON_UNDER_WAY + 1 &&
                   CUP_REASON_STOPS_SOON == CUP_REASON_STARTS_SOON + 1,
               "start, then stop; each first as a latch that raises has it");

uint8_t cup_latch_cause(CUP_NUMBERS struct cup_latch *latch,
                        const struct cup_latch_state *state, cup_mark level,
                        cup_value value, struct cup_cause *cause)
{
    cup_value start = CUP_TOLD(latch, start);
    cup_value stop = CUP_TOLD(latch, stop);
    bool on = state->on;
    bool past = crossed(latch, !on, level);
    uint8_t reason = on ? CUP_REASON_UNDER_WAY : CUP_REASON_NO_NEED;
    if (crossed(latch, on, level)) /* but not confirmed, or not steady */
        reason = on ? CUP_REASON_STOPS_SOON : CUP_REASON_STARTS_SOON;
    if (past)
        reason =
            (uint8_t)(CUP_REASON_BELOW_START + (on ? 0 : 2) + (start > stop));
    return cup_cause_values(cause, reason, value, on == past ? start : stop);
}
