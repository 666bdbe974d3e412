/* A pump at a tank that nobody can see into: it is tried where something else
 * than its ranger says whether water moves, else somebody has to look in. */
#include "inside.h"

#if CUP_USES_SPANS

/* Nearer than a ranger can measure for so long is no passing drop. */
#define NEAR_MS (UINT32_C(60) * 60 * 1000)
/* Between two tries of a pump without `retry`. */
#define PAUSE_MS (UINT32_C(10) * 60 * 1000)

/* Whether a proof watches the pump looked at, by another sensor than this
 * tank's. */
static bool is_watched(const struct cup_pass *pass, cup_index thing)
{
    (void)pass, (void)thing;
    CUP_WHERE(PROOFS, {
        const struct cup_site *site = site_of(pass);
        CUP_FLASH struct cup_proof *proof = pass->pump_plan->proof;
        return proof && cup_in_levels_sensor(site, proof->about) !=
                            cup_in_levels_sensor(site, thing);
    })
    return false;
}

/* A duty that empties the tank runs, or would, and the span reaches over both
 * its marks. */
static bool is_emptied_blindly(const struct cup_pass *pass, cup_index thing,
                               const struct cup_span_state *state)
{
    const struct cup_site *site = site_of(pass);
    if (!cup_span_is(state, CUP_SPAN_LEAPT) || pass->pump->duty == CUP_NONE)
        return false;
    CUP_FLASH struct cup_duty *duty = &site->plan->duties[pass->pump->duty];
    return duty->keep == thing && !CUP_IF(TURNS, duty->turn) &&
           CUP_COUNTS(duty->latch.start) > CUP_COUNTS(duty->latch.stop) &&
           state->low < CUP_COUNTS(duty->latch.stop) &&
           state->high > CUP_COUNTS(duty->latch.start);
}

/* A try: once a pause, for as long as its proof takes. */
static bool is_tried(struct cup_pass *pass)
{
    CUP_FLASH struct cup_pump *plan = pass->pump_plan;
    uint32_t pause = plan->retry_ms > 0 ? plan->retry_ms : PAUSE_MS;
    bool on = cup_pump_is(pass->pump, CUP_PUMP_IS_ON);
    uint32_t most = CUP_IF_ELSE(PROOFS, plan->proof->within_ms, 0) +
                    site_of(pass)->plan->scan_ms; /* until that is judged */
    uint32_t left =
        cup_left(pass->now, pass->pump->since_ms, on ? most : pause);
    if (left > 0)
        cup_in_quiet_for(pass, left);
    return on ? left > 0 : left == 0;
}

bool cup_in_blind_may(struct cup_pass *pass, CUP_FLASH struct cup_guard *guard)
{
    struct cup_span_state *state = cup_in_spans_of(site_of(pass), guard->about);
    if (guard->kind != CUP_GUARD_SOURCE || !state ||
        (cup_in_levels_flags(site_of(pass), guard->about) & CUP_READING_LOST))
        return false; /* a sensor that is lost stops what runs */
    bool watched = is_watched(pass, guard->about);
    if (watched && is_emptied_blindly(pass, guard->about, state))
        return true;
    if (!cup_span_is(state, CUP_SPAN_BRIM))
        return false;
    uint32_t left = cup_left(pass->now, state->brim_ms, NEAR_MS);
    if (left > 0) {
        cup_in_quiet_for(pass, left);
        return false;
    }
    if (watched)
        return is_tried(pass);
    if (!cup_span_is(state, CUP_SPAN_HELP)) {
        cup_set_bits(&state->flags, CUP_SPAN_HELP, true);
        cup_in_because(pass, CUP_REASON_LOOK_IN, guard->about);
        cup_in_tell(pass, guard->about, CUP_KIND_ALERT);
    }
    return false;
}

#endif
