/* The guards: never pump from what is low, into what is full, on a supply that
 * is weak, or by a reading that is lost. A guard can only say no. */
#include "cuplatch/pump.h"

_Static_assert(CUP_REASON_FLOATS_DIFFER ==
                   CUP_REASON_SOURCE_LOW +
                       CUP_FIRST_GUARD_COUNT * CUP_GUARD_SAYS,
               "as many reasons for each, in the order of the guards");
_Static_assert(CUP_GUARD_COUNT <= 8, "each has a bit of what is remembered");

CUP_APART static uint8_t reason_of(CUP_FLASH struct cup_guard *guard,
                                   uint8_t which)
{
    return cup_guard_reason(guard->kind, which);
}

uint8_t cup_guard_step(CUP_FLASH struct cup_guard *guard,
                       struct cup_pump_state *state, uint8_t flags,
                       cup_mark value, bool sure)
{
    uint8_t memory = (uint8_t)(1u << guard->kind);
    if (!(flags & CUP_READING_KNOWN))
        return reason_of(guard, flags & CUP_READING_LOST ? CUP_GUARD_LOST
                                                         : CUP_GUARD_UNKNOWN);
    bool bad = cup_is_beyond(&guard->mark, &guard->clear, value);
    if (!bad && !(state->guarded & memory))
        return CUP_REASON_NONE;
    bool clear = cup_is_beyond(&guard->clear, &guard->mark, value);
    if (sure && clear) {
        state->guarded = (uint8_t)(state->guarded & ~memory);
        return CUP_REASON_NONE;
    }
    state->guarded |= memory;
    if (clear) /* by one sample alone */
        return reason_of(guard, CUP_GUARD_UNKNOWN);
    return reason_of(guard, bad ? CUP_GUARD_PAST : CUP_GUARD_NOT_CLEAR);
}

CUP_FLASH struct cup_guard *cup_guard_of(CUP_FLASH struct cup_pump *pump,
                                         uint8_t reason)
{
    uint8_t kind = cup_guard_kind(reason);
    CUP_FLASH struct cup_guard *guard = pump->guards;
    for (uint8_t left = pump->guard_count; left > 0; left--, guard++)
        if (guard->kind == kind)
            return guard;
    return NULL;
}

uint8_t cup_guard_cause(CUP_FLASH struct cup_guard *guard, uint8_t reason,
                        cup_mark level, cup_value value,
                        struct cup_cause *cause)
{
    bool beyond = cup_is_beyond(&guard->mark, &guard->clear, level);
    cause->about = guard->about;
    return cup_cause_values(cause, reason, value,
                            beyond ? CUP_TOLD(guard, mark)
                                   : CUP_TOLD(guard, clear));
}
