/* Said once, at intervals, and once when it is over. */
#include "cuplatch/alert.h"

enum cup_alert_says cup_alert_step(CUP_FLASH struct cup_alert *alert,
                                   struct cup_alert_state *state,
                                   uint32_t now_ms, cup_mark value,
                                   bool sampled)
{
    struct cup_latch room;
    CUP_NUMBERS struct cup_latch *latch = cup_latch_of(&alert->latch, &room);
    bool was = state->latch.on;
    bool on = cup_latch_step(latch, &state->latch, now_ms, value, sampled);
    if (was && !on)
        return CUP_ALERT_OVER;
    bool again = was && alert->repeat_ms > 0 &&
                 cup_left(now_ms, state->told_ms, alert->repeat_ms) == 0;
    if (!on || (was && !again))
        return CUP_ALERT_NOTHING;
    state->told_ms = now_ms;
    return CUP_ALERT_SAY;
}

uint32_t cup_alert_left(CUP_FLASH struct cup_alert *alert,
                        const struct cup_alert_state *state, uint32_t now_ms)
{
    struct cup_latch room;
    CUP_NUMBERS struct cup_latch *latch = cup_latch_of(&alert->latch, &room);
    uint32_t left = cup_latch_left(latch, &state->latch, now_ms);
    if (state->latch.on && alert->repeat_ms > 0)
        left =
            cup_least(left, cup_left(now_ms, state->told_ms, alert->repeat_ms));
    return left;
}
