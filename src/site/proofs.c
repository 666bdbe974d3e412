/* Proof of flow: whether what a pump does is seen where it should be. */
#include "inside.h"

#if CUP_USES_PROOFS
/* What other pumps that move the tank do for a proof by it. */
static unsigned by_others(CUP_FLASH struct cup_proof *proof,
                          const struct cup_tank_state *tank, int own,
                          int others)
{
    const int helpers =
        (proof->kind == CUP_PROOF_FALLS ? tank->movers - tank->givers
                                        : tank->givers) -
        own;
    return (helpers > 0 ? CUP_PROOF_HELPED : 0u) |
           (helpers < others ? CUP_PROOF_HINDERED : 0u);
}

/* How other pumps move what should tell, of enum cup_proof_flag. This pump
 * counts itself while it is on. */
static unsigned moved_by_others(const struct cup_pass *pass, bool on)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_proof *proof = pass->pump_plan->proof;
    CUP_WHERE(FLOWS, {
        if (proof->shared > 0 &&
            site->proofs[proof->shared - 1].sharers > (on ? 1 : 0))
            return CUP_PROOF_HELPED;
        if (proof->about < site->plan->sensor_count)
            return 0;
    })
    const struct cup_tank_state *tank =
        &site->tanks[proof->about - site->plan->sensor_count];
    const int own = on ? proof->own : 0;
    const int others = tank->movers - own;
    return others > 0 ? by_others(proof, tank, own, others) : 0;
}

/* Judges the proof of a running pump; reason NONE when it need not stop. */
uint8_t cup_in_proofs_check(struct cup_pass *pass, struct cup_pump_state *pump)
{
    CUP_FLASH struct cup_proof *proof = pass->pump_plan->proof;
    struct cup_proof_state *state = cup_in_pass_proof(pass);
    if (!cup_in_levels_usable(site_of(pass), proof->about))
        return cup_in_why_lost(pass, proof->about, CUP_REASON_PROOF_LOST,
                               CUP_REASON_PROOF_LOST);
    const unsigned mixed = moved_by_others(pass, true);
    state->flags |= (uint8_t)mixed;
    CUP_WHERE(FLOWS,
              cup_proof_see(proof, state,
                            cup_in_levels_depth(site_of(pass), proof->about));)
    if (!cup_is_over(pass->now, &state->from_ms, &proof->within_ms))
        return CUP_REASON_NONE;
    enum cup_verdict verdict = cup_proof_judge(
        proof, state, pass->now,
        cup_in_levels_depth(site_of(pass), proof->about), &pass->event.cause);
    state->flags = (uint8_t)mixed;
    if (verdict == CUP_PROVED) {
        cup_pump_clear(pump);
        CUP_WHERE(TRIES, cup_in_trips_acquit(pass);)
    }
    return verdict == CUP_FAILED ? pass->event.cause.reason : CUP_REASON_NONE;
}

/* A run begins or ends: so does a part of its proof. */
void cup_in_proofs_switch(struct cup_pass *pass, bool on)
{
    CUP_FLASH struct cup_proof *proof = pass->pump_plan->proof;
    struct cup_proof_state *state = cup_in_pass_proof(pass);
    if (!on) {
        cup_proof_stop(proof, state, pass->now);
        return;
    }
    cup_proof_start(state, pass->now,
                    cup_in_levels_depth(site_of(pass), proof->about));
    state->flags |= (uint8_t)moved_by_others(pass, true);
}

/* What the last run of a pump that is off moved is read late. A sensor that
 * cannot be read now tells nothing of it. */
void cup_in_proofs_settle(struct cup_pass *pass)
{
    CUP_FLASH struct cup_proof *proof = pass->pump_plan->proof;
    if (!proof)
        return;
    struct cup_proof_state *state = cup_in_pass_proof(pass);
    if (!(state->flags & CUP_PROOF_COMES))
        return;
    const unsigned by = cup_in_levels_usable(site_of(pass), proof->about)
                            ? moved_by_others(pass, false)
                            : CUP_PROOF_HELPED;
    uint32_t left =
        cup_proof_settle(proof, state, pass->now,
                         cup_in_levels_depth(site_of(pass), proof->about), by);
    if (left > 0)
        cup_in_quiet_for(pass, left);
}
#endif
