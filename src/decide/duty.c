/* What a pump is for: the marks of a duty that keeps a level. */
#include "cuplatch/duty.h"

uint32_t cup_duty_step(CUP_NUMBERS struct cup_latch *latch,
                       struct cup_latch_state *state, uint32_t now_ms,
                       bool usable, cup_mark value, cup_mark shown,
                       bool sampled)
{
    if (!usable) {
        cup_latch_release(state);
        return UINT32_MAX;
    }
    bool was = state->on;
    if (cup_latch_step(latch, state, now_ms, was ? value : shown, sampled) !=
        was)
        return 0; /* from now on it looks at the other of the two */
    return CUP_USES_QUIET ? cup_latch_left(latch, state, now_ms) : 0;
}
