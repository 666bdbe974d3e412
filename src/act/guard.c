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

/* Whether one sample after another is past the clear mark; `once` remembers
 * the first of the two. One that is not begins anew. */
static bool is_sure(CUP_FLASH struct cup_guard *guard, uint8_t *guarded,
                    uint8_t once, uint8_t flags, cup_mark single)
{
    if (!(flags & CUP_READING_NEW))
        return false;
    bool clear = cup_is_beyond(&guard->clear, &guard->mark, single);
    bool sure = clear && (*guarded & once);
    *guarded = (uint8_t)(clear && !sure ? *guarded | once : *guarded & ~once);
    return sure;
}

uint8_t cup_guard_step(CUP_FLASH struct cup_guard *guard,
                       struct cup_pump_state *state, uint8_t flags,
                       cup_mark value, const cup_mark *single)
{
    uint8_t memory = (uint8_t)(CUP_GUARD_SAID_NO << guard->kind);
    if (!(flags & CUP_READING_KNOWN))
        return reason_of(guard, flags & CUP_READING_LOST ? LOST : UNKNOWN);
    bool bad = cup_is_beyond(&guard->mark, &guard->clear, value);
    if (!bad && !(state->guarded & memory))
        return CUP_REASON_NONE;
    bool sure = !single || is_sure(guard, &state->guarded,
                                   (uint8_t)(CUP_GUARD_CLEAR_ONCE
                                             << guard->kind),
                                   flags, *single);
    if (sure && cup_is_beyond(&guard->clear, &guard->mark, value)) {
        state->guarded = (uint8_t)(state->guarded & ~memory);
        return CUP_REASON_NONE;
    }
    state->guarded |= memory;
    return reason_of(guard, bad ? PAST : NOT_CLEAR);
}

bool cup_guard_is_blind(uint8_t reason)
{
    return (reason - FIRST) % REASONS_EACH >= LOST;
}

CUP_FLASH struct cup_guard *cup_guard_of(CUP_FLASH struct cup_pump *pump,
                                         uint8_t reason)
{
    uint8_t kind = (uint8_t)((uint8_t)(reason - FIRST) / REASONS_EACH);
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
