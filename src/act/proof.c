/* Whether a pump that runs moves any water. */
#include "cuplatch/proof.h"

/* What was gained in the direction that proves. Wild readings saturate. */
CUP_APART static int32_t gain(CUP_FLASH struct cup_proof *proof,
                              const struct cup_proof_state *state,
                              int32_t value)
{
    int32_t from = state->base;
    int32_t to = value;
    if (proof->kind == CUP_PROOF_FALLS) {
        from = value;
        to = state->base;
    }
    return cup_plus(state->gained, cup_minus(to, from));
}

void cup_proof_see(CUP_FLASH struct cup_proof *proof,
                   struct cup_proof_state *state, int32_t value)
{
    if (CUP_IF(FLOWS, proof->kind == CUP_PROOF_ABOVE) && value >= proof->change)
        state->gained = 1;
}

void cup_proof_start(struct cup_proof_state *state, uint32_t now_ms,
                     int32_t value)
{
    state->base = value;
    state->from_ms = now_ms - state->ran_ms;
}

void cup_proof_stop(CUP_FLASH struct cup_proof *proof,
                    struct cup_proof_state *state, uint32_t now_ms,
                    int32_t value)
{
    if (!CUP_IF(FLOWS, proof->kind == CUP_PROOF_ABOVE))
        state->gained = gain(proof, state, value);
    state->ran_ms =
        cup_least(cup_elapsed(now_ms, state->from_ms), proof->within_ms);
}

uint32_t cup_proof_left(CUP_FLASH struct cup_proof *proof,
                        const struct cup_proof_state *state, uint32_t now_ms)
{
    return cup_left(now_ms, state->from_ms, proof->within_ms);
}

static void begin_again(struct cup_proof_state *state, uint32_t now_ms,
                        int32_t value)
{
    state->gained = 0;
    state->ran_ms = 0;
    state->mixed = 0;
    cup_proof_start(state, now_ms, value);
}

static enum cup_verdict judge_mixed(struct cup_proof_state *state,
                                    struct cup_cause *cause)
{
    state->unsure++;
    if (state->unsure < CUP_PROOF_MIXED_MOST)
        return CUP_UNSURE;
    cause->reason = CUP_REASON_PROOF_UNSURE;
    cause->value = state->unsure;
    state->unsure = 0;
    return CUP_FAILED;
}

CUP_APART enum cup_verdict cup_proof_judge(CUP_FLASH struct cup_proof *proof,
                                           struct cup_proof_state *state,
                                           uint32_t now_ms, int32_t value,
                                           struct cup_cause *cause)
{
    static CUP_FLASH uint8_t reasons[] = {
        CUP_REASON_NO_RISE, CUP_REASON_NO_FALL, CUP_REASON_NO_FLOW};
    bool above = CUP_IF(FLOWS, proof->kind == CUP_PROOF_ABOVE);
    int32_t shown = above ? value : gain(proof, state, value);
    bool mixed = state->mixed;
    bool shows = shown >= proof->change ||
                 (above && state->ran_ms > 0 && state->gained > 0);
    *cause = (struct cup_cause){shown, proof->change, proof->about,
                                reasons[proof->kind]};
    begin_again(state, now_ms, value);
    cup_proof_see(proof, state, value);
    if (mixed)
        return judge_mixed(state, cause);
    state->unsure = 0;
    return shows ? CUP_PROVED : CUP_FAILED;
}
