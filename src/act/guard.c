/* The source guards: never pump from a tank that is low, lost or unknown. */
#include "cuplatch/pump.h"

static uint8_t source_says(CUP_FLASH struct cup_pump *pump,
                           struct cup_pump_state *state,
                           struct cup_reading source)
{
    if (!cup_usable(source))
        return source.quality == CUP_QUALITY_LOST ? CUP_REASON_SOURCE_LOST
                                                  : CUP_REASON_SOURCE_UNKNOWN;
    if (source.value < pump->dry_below) {
        cup_pump_set(state, CUP_PUMP_IS_LOW, true);
        return CUP_REASON_SOURCE_LOW;
    }
    if (source.value > pump->dry_clear)
        cup_pump_set(state, CUP_PUMP_IS_LOW, false);
    return cup_pump_is(state, CUP_PUMP_IS_LOW) ? CUP_REASON_SOURCE_NOT_CLEAR
                                               : CUP_REASON_NONE;
}

void cup_guard_step(CUP_FLASH struct cup_pump *pump,
                    struct cup_pump_state *state, struct cup_reading source)
{
    state->no = source_says(pump, state, source);
}

struct cup_cause cup_guard_cause(CUP_FLASH struct cup_pump *pump,
                                 uint8_t reason, struct cup_reading source)
{
    struct cup_cause cause = {.about = pump->from, .reason = reason};
    if (!cup_usable(source))
        return cup_unusable(pump->from, source, CUP_REASON_SOURCE_LOST,
                            CUP_REASON_SOURCE_UNKNOWN);
    cause.value = source.value;
    cause.limit =
        source.value < pump->dry_below ? pump->dry_below : pump->dry_clear;
    return cause;
}
