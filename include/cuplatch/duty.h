/* A duty says what a pump is for. It only asks; guards have the last word. */
#ifndef CUPLATCH_DUTY_H
#define CUPLATCH_DUTY_H

#include "latch.h"
#include "sensor.h"

/* keep: hold the level of a thing (a sensor or a tank) between two marks by
 * running a pump as long as it takes. */
struct cup_duty {
    struct cup_latch latch;
    cup_index keep;
    cup_index pump;
};

struct cup_duty_state {
    struct cup_latch_state latch;
};

/* Looks at the reading: its value stops, the `shown` (steady) one starts.
 * `sampled` says that it is new in this pass. Returns
 * how many ms may pass before the duty wants to look again by itself. */
uint32_t cup_duty_step(CUP_FLASH struct cup_duty *duty,
                       struct cup_duty_state *state, uint32_t now_ms,
                       struct cup_reading reading, int32_t shown, bool sampled);

/* Why it asks, or why it does not. */
struct cup_cause cup_duty_cause(CUP_FLASH struct cup_duty *duty,
                                const struct cup_duty_state *state,
                                struct cup_reading reading);

static inline bool cup_duty_asks(const struct cup_duty_state *state)
{
    return state->latch.on;
}

#endif
