/* The guards: never pump from what is low, into what is full, on a supply that
 * is weak, or by a reading that is lost. A guard can only say no. */
#include "cuplatch/pump.h"

/* The first of a guard's four reasons. */
#define FIRST CUP_REASON_SOURCE_LOW
enum { PAST, NOT_CLEAR, LOST, UNKNOWN, REASONS_EACH };
_Static_assert(CUP_REASON_SUPPLY_UNKNOWN ==
                   FIRST + CUP_GUARD_COUNT * REASONS_EACH - 1,
               "four reasons each, in the order of the guards");

CUP_APART static uint8_t reason_of(CUP_FLASH struct cup_guard *guard,
                                   uint8_t which)
{
    return (uint8_t)(FIRST + guard->kind * REASONS_EACH + which);
}

/* How far a value is past a mark, to the side where the guard says no. */
static inline bool past(bool low_is_bad, cup_value value, cup_value mark)
{
    return low_is_bad ? value < mark : value > mark;
}

uint8_t cup_guard_step(CUP_FLASH struct cup_guard *guard,
                       struct cup_pump_state *state, uint8_t flags,
                       cup_value value)
{
    cup_value mark = guard->mark;
    cup_value clear = guard->clear;
    /* of the upper byte alone */
    unsigned memory =
        (unsigned)(uint8_t)(CUP_PUMP_GUARDED / 256u << guard->kind) * 256u;
    if (!(flags & CUP_READING_KNOWN))
        return reason_of(guard, flags & CUP_READING_LOST ? LOST : UNKNOWN);
    bool low_is_bad = mark < clear;
    bool bad = past(low_is_bad, value, mark);
    if (!bad && !cup_pump_is(state, memory))
        return CUP_REASON_NONE;
    bool still = !past(!low_is_bad, value, clear);
    cup_pump_set(state, memory, still);
    if (!still)
        return CUP_REASON_NONE;
    return reason_of(guard, bad ? PAST : NOT_CLEAR);
}

CUP_FLASH struct cup_guard *cup_guard_of(CUP_FLASH struct cup_pump *pump,
                                         uint8_t reason)
{
    for (uint8_t i = 0; i < pump->guard_count; i++) {
        uint8_t first = reason_of(&pump->guards[i], PAST);
        if (reason >= first && reason < first + REASONS_EACH)
            return &pump->guards[i];
    }
    return NULL;
}

uint8_t cup_guard_cause(CUP_FLASH struct cup_guard *guard, uint8_t reason,
                        cup_value value, struct cup_cause *cause)
{
    bool beyond = past(guard->mark < guard->clear, value, guard->mark);
    cause->about = guard->about;
    return cup_cause_set(cause, reason, value,
                         beyond ? guard->mark : guard->clear);
}
