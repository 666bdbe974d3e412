/* Whether a pump that runs moves any water. */
#include "cuplatch/proof.h"

/* What was gained in the direction that proves. Wild readings saturate. */
CUP_APART static int32_t gain(CUP_FLASH struct cup_proof *proof,
                              const struct cup_proof_state *state,
                              cup_value value)
{
    cup_value from = state->base;
    cup_value to = value;
    if (proof->kind == CUP_PROOF_FALLS) {
        from = value;
        to = state->base;
    }
    /* depths of 16 bits: it would take 65,536 parts, each the worst */
    return CUP_IF_ELSE(WIDE, cup_plus(state->gained, cup_minus(to, from)),
                       state->gained + (cup_value)(to - from));
}

void cup_proof_see(CUP_FLASH struct cup_proof *proof,
                   struct cup_proof_state *state, cup_value value)
{
    if (CUP_IF(FLOWS, proof->kind == CUP_PROOF_ABOVE) && value >= proof->change)
        state->gained = 1;
}

void cup_proof_start(struct cup_proof_state *state, uint32_t now_ms,
                     cup_value value)
{
    if (!(state->flags & CUP_PROOF_COMES))
        state->base = value;
    state->flags &= (uint8_t)~CUP_PROOF_COMES;
    state->from_ms = now_ms - state->ran_ms;
}

void cup_proof_stop(CUP_FLASH struct cup_proof *proof,
                    struct cup_proof_state *state, uint32_t now_ms)
{
    state->ran_ms =
        cup_least(cup_elapsed(now_ms, state->from_ms), proof->within_ms);
    state->flags |= CUP_PROOF_COMES;
    state->from_ms = now_ms;
}

uint32_t cup_proof_settle(CUP_FLASH struct cup_proof *proof,
                          struct cup_proof_state *state, uint32_t now_ms,
                          cup_value value, unsigned flags)
{
    uint32_t left = cup_left(now_ms, state->from_ms, proof->lag_ms);
    cup_proof_see(proof, state, value);
    state->flags |= (uint8_t)flags;
    if (left > 0 && flags == 0)
        return left;
    state->flags &= (uint8_t)~CUP_PROOF_COMES;
    if (!CUP_IF(FLOWS, proof->kind == CUP_PROOF_ABOVE))
        state->gained = gain(proof, state, value);
    return 0;
}

uint32_t cup_proof_left(CUP_FLASH struct cup_proof *proof,
                        const struct cup_proof_state *state, uint32_t now_ms)
{
    return cup_left(now_ms, state->from_ms, proof->within_ms);
}

static void begin_again(struct cup_proof_state *state, uint32_t now_ms,
                        cup_value value)
{
    state->gained = 0;
    state->ran_ms = 0;
    state->flags = 0;
    cup_proof_start(state, now_ms, value);
}

_Static_assert(CUP_REASON_NO_FALL == CUP_REASON_NO_RISE + CUP_PROOF_FALLS &&
                   CUP_REASON_NO_FLOW == CUP_REASON_NO_RISE + CUP_PROOF_ABOVE,
               "a reason each, in the order of the kinds");

enum cup_verdict cup_proof_judge(CUP_FLASH struct cup_proof *proof,
                                 struct cup_proof_state *state, uint32_t now_ms,
                                 cup_value value, struct cup_cause *cause)
{
    bool above = CUP_IF(FLOWS, proof->kind == CUP_PROOF_ABOVE);
    int32_t shown = above ? value : gain(proof, state, value);
    uint8_t reason = (uint8_t)(CUP_REASON_NO_RISE + proof->kind);
    const unsigned mixed = state->flags;
    bool shows = shown >= proof->change ||
                 (above && state->ran_ms > 0 && state->gained > 0);
    begin_again(state, now_ms, value);
    cup_proof_see(proof, state, value);
    if (shows && !(mixed & CUP_PROOF_HELPED)) {
        state->unsure = 0;
        return CUP_PROVED;
    }
    if (mixed) {
        shown = ++state->unsure;
        if (shown < CUP_PROOF_MIXED_MOST)
            return CUP_UNSURE;
        reason = CUP_REASON_PROOF_UNSURE;
    }
    state->unsure = 0;
    cause->about = proof->about;
    cup_cause_set(cause, reason, shown, proof->change);
    return CUP_FAILED;
}
