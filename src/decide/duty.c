/* What a pump is for, and when it is asked for. */
#include "cuplatch/duty.h"

uint32_t cup_duty_step(CUP_FLASH struct cup_duty *duty,
                       struct cup_duty_state *state, uint32_t now_ms,
                       struct cup_reading reading, int32_t shown, bool sampled)
{
    if (!cup_usable(reading)) {
        cup_latch_release(&state->latch);
        return UINT32_MAX;
    }
    struct cup_latch latch = duty->latch;
    int32_t value = state->latch.on ? reading.value : shown;
    cup_latch_step(&latch, &state->latch, now_ms, value, sampled);
    return cup_latch_left(&latch, &state->latch, now_ms);
}

struct cup_cause cup_duty_cause(CUP_FLASH struct cup_duty *duty,
                                const struct cup_duty_state *state,
                                struct cup_reading reading)
{
    if (!cup_usable(reading))
        return cup_unusable(duty->keep, reading, CUP_REASON_READING_LOST,
                            CUP_REASON_NO_READING);
    struct cup_latch latch = duty->latch;
    struct cup_cause cause =
        cup_latch_cause(&latch, &state->latch, reading.value);
    cause.about = duty->keep;
    return cause;
}
