/* The guards, as contracts: a guard can only say no, and does so whenever its
 * reading cannot be used or is past its mark; and it has no reason but its
 * own. */
#include "flags.h"

/*@ predicate past_mark(struct cup_guard *g, integer v) =
        g->mark < g->clear ? v < g->mark : v > g->mark;
    predicate past_clear(struct cup_guard *g, integer v) =
        g->mark < g->clear ? v > g->clear : v < g->clear;
*/

/*@ requires kind < CUP_GUARD_COUNT && which < 4;
    assigns \nothing;
    ensures \result == CUP_REASON_SOURCE_LOW + 4 * kind + which;
*/
static inline uint8_t cup_guard_reason(uint8_t kind, uint8_t which);

/*@ requires \valid_read(guard);
    requires guard->kind < CUP_GUARD_COUNT && which < 4;
    assigns \nothing;
    ensures \result == CUP_REASON_SOURCE_LOW + 4 * guard->kind + which;
*/
static uint8_t reason_of(CUP_FLASH struct cup_guard *guard, uint8_t which);

/*@ assigns \nothing;
    ensures reason >= CUP_REASON_SOURCE_LOW ==>
            \result == (reason - CUP_REASON_SOURCE_LOW) / 4;
*/
static inline uint8_t cup_guard_kind(uint8_t reason);

/*@ requires \valid_read(guard) && \valid(state);
    requires \separated(guard, state);
    requires guard->kind < CUP_GUARD_COUNT;
    requires guard->mark != guard->clear;
    assigns state->guarded;
    ensures unusable_says_no: (flags & CUP_READING_KNOWN) == 0 ==>
                              \result != CUP_REASON_NONE;
    ensures past_mark_says_no: past_mark(guard, value) ==>
                               \result != CUP_REASON_NONE;
    ensures source_goes_on: guard->kind == CUP_GUARD_SOURCE &&
        (\old(state->guarded) & 1) != 0 &&
        !past_clear(guard, value) ==> \result != CUP_REASON_NONE;
    ensures destination_goes_on: guard->kind == CUP_GUARD_DESTINATION &&
        (\old(state->guarded) & 2) != 0 &&
        !past_clear(guard, value) ==> \result != CUP_REASON_NONE;
    ensures supply_goes_on: guard->kind == CUP_GUARD_SUPPLY &&
        (\old(state->guarded) & 4) != 0 &&
        !past_clear(guard, value) ==> \result != CUP_REASON_NONE;
    ensures source_needs_to_be_sure: guard->kind == CUP_GUARD_SOURCE &&
        (\old(state->guarded) & 1) != 0 && !sure ==>
        \result != CUP_REASON_NONE;
    ensures yes_is_clear: \result == CUP_REASON_NONE ==>
                          !past_mark(guard, value);
    ensures its_own_reasons: \result != CUP_REASON_NONE ==>
        CUP_REASON_SOURCE_LOW + 4 * guard->kind <= \result <
        CUP_REASON_SOURCE_LOW + 4 * guard->kind + 4;
*/
uint8_t cup_guard_step(CUP_FLASH struct cup_guard *guard,
                       struct cup_pump_state *state, uint8_t flags,
                       cup_mark value, bool sure);

/*@ requires \valid(cause);
    assigns cause->reason, cause->value, cause->limit;
    ensures \result == reason && cause->reason == reason;
    ensures cause->value == value && cause->limit == limit;
*/
static inline uint8_t cup_cause_set(struct cup_cause *cause, uint8_t reason,
                                    int32_t value, int32_t limit);

/*@ requires \valid(cause);
    assigns cause->reason, cause->value, cause->limit;
    ensures \result == reason && cause->reason == reason;
    ensures cause->value == value && cause->limit == limit;
*/
static inline uint8_t cup_cause_values(struct cup_cause *cause, uint8_t reason,
                                       cup_value value, cup_value limit);

/*@ requires \valid_read(guard) && \valid(cause);
    requires \separated(guard, cause);
    assigns *cause;
    ensures \result == reason && cause->reason == reason;
    ensures cause->value == value && cause->about == guard->about;
    ensures cause->limit == guard->mark || cause->limit == guard->clear;
*/
uint8_t cup_guard_cause(CUP_FLASH struct cup_guard *guard, uint8_t reason,
                        cup_mark level, cup_value value,
                        struct cup_cause *cause);

#include "../../src/act/guard.c"
