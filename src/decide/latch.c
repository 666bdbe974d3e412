/* Two marks, and nothing changes between them. */
#include "cuplatch/latch.h"

static bool raises(CUP_NUMBERS struct cup_latch *latch)
{
    return latch->start < latch->stop;
}

/* Past the mark that would switch it from where it is. */
static bool crossed(CUP_NUMBERS struct cup_latch *latch, bool on,
                    cup_value value)
{
    cup_value mark = on ? latch->stop : latch->start;
    return raises(latch) == on ? value > mark : value < mark;
}

bool cup_latch_step(CUP_NUMBERS struct cup_latch *latch,
                    struct cup_latch_state *state, uint32_t now_ms,
                    cup_value value, bool sampled)
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

bool cup_latch_past_stop(CUP_NUMBERS struct cup_latch *latch, cup_value value)
{
    return crossed(latch, true, value);
}

void cup_latch_release(struct cup_latch_state *state)
{
    state->on = false;
    state->samples = 0;
}

uint8_t cup_latch_cause(CUP_NUMBERS struct cup_latch *latch,
                        const struct cup_latch_state *state, cup_value value,
                        struct cup_cause *cause)
{
    bool up = raises(latch);
    bool on = state->on;
    cup_value mark = on ? latch->start : latch->stop;
    if (up == on ? value < mark : value > mark) {
        uint8_t reason = up ? CUP_REASON_ABOVE_STOP : CUP_REASON_BELOW_STOP;
        if (on)
            reason = up ? CUP_REASON_BELOW_START : CUP_REASON_ABOVE_START;
        return cup_cause_set(cause, reason, value, mark);
    }
    return cup_cause_set(cause, on ? CUP_REASON_UNDER_WAY : CUP_REASON_NO_NEED,
                         value, on ? latch->stop : latch->start);
}
