/* A little at a time. */
#include "cuplatch/dose.h"

static void enter(struct cup_dose_state *state, struct cup_latch_state *latch,
                  enum cup_dose_phase phase, uint32_t now_ms)
{
    latch->own[CUP_DOSE_PHASE] = (uint8_t)phase;
    state->since_ms = now_ms;
}

/* A dose begins: it counts whether or not it is given to its end. */
static void begin_phase(struct cup_dose_state *state,
                        struct cup_latch_state *latch, uint32_t run_since_ms)
{
    enter(state, latch, CUP_DOSE_GIVEN, run_since_ms);
    if (latch->own[CUP_DOSE_COUNT] < UINT8_MAX)
        latch->own[CUP_DOSE_COUNT]++;
}

/* While the pump runs for it. A shortest run may go on after its time; the
 * water soaks in from the end of that. */
static void give(CUP_NUMBERS struct cup_dose *dose,
                 struct cup_dose_state *state, struct cup_latch_state *latch,
                 uint32_t now_ms, uint32_t run_since_ms)
{
    uint8_t *phase = &latch->own[CUP_DOSE_PHASE];
    if (*phase == CUP_DOSE_READY && latch->on)
        begin_phase(state, latch, run_since_ms);
    if (*phase == CUP_DOSE_SOAKS ||
        (*phase == CUP_DOSE_GIVEN &&
         cup_is_past(now_ms, &state->since_ms, &dose->dose_ms)))
        enter(state, latch, CUP_DOSE_SOAKS, now_ms);
}

/* The water has had its time: another dose, if one is left. */
static void look_again(CUP_NUMBERS struct cup_dose *dose,
                       struct cup_dose_state *state,
                       struct cup_latch_state *latch, uint32_t now_ms)
{
    bool out = dose->doses > 0 && latch->on &&
               latch->own[CUP_DOSE_COUNT] >= dose->doses;
    enter(state, latch, out ? CUP_DOSE_OUT : CUP_DOSE_READY, now_ms);
}

/* How long a step need not be made. */
static uint32_t dose_left(CUP_NUMBERS struct cup_dose *dose,
                          const struct cup_dose_state *state, uint8_t phase,
                          uint32_t now_ms, bool running)
{
    if (phase == CUP_DOSE_SOAKS) /* it soaks from the end of its run */
        return running ? 0 : cup_left(now_ms, state->since_ms, dose->soak_ms);
    return running && phase == CUP_DOSE_GIVEN
               ? cup_left(now_ms, state->since_ms, dose->dose_ms)
               : UINT32_MAX;
}

uint32_t cup_dose_step(CUP_NUMBERS struct cup_dose *dose,
                       struct cup_dose_state *state,
                       struct cup_latch_state *latch, uint32_t now_ms,
                       bool past_stop, bool running, uint32_t run_since_ms)
{
    uint8_t *phase = &latch->own[CUP_DOSE_PHASE];
    if (running)
        give(dose, state, latch, now_ms, run_since_ms);
    else if (*phase == CUP_DOSE_GIVEN)
        enter(state, latch, CUP_DOSE_SOAKS, now_ms);
    if (*phase == CUP_DOSE_SOAKS &&
        cup_is_past(now_ms, &state->since_ms, &dose->soak_ms))
        look_again(dose, state, latch, now_ms);
    if (past_stop && !latch->on && *phase != CUP_DOSE_SOAKS)
        cup_dose_clear(latch);
    return CUP_USES_QUIET ? dose_left(dose, state, *phase, now_ms, running) : 0;
}

uint8_t cup_dose_cause(CUP_NUMBERS struct cup_dose *dose,
                       const struct cup_dose_state *state,
                       const struct cup_latch_state *latch, uint32_t now_ms,
                       struct cup_cause *cause)
{
    uint8_t phase = latch->own[CUP_DOSE_PHASE];
    if (phase == CUP_DOSE_OUT)
        return cup_cause_set(cause, CUP_REASON_DOSES_OUT,
                             latch->own[CUP_DOSE_COUNT], 0);
    if (phase != CUP_DOSE_SOAKS)
        return CUP_REASON_NONE;
    bool given = cup_elapsed(now_ms, state->since_ms) == 0;
    return cup_cause_set(
        cause, given ? CUP_REASON_DOSE_GIVEN : CUP_REASON_SOAKS,
        (int32_t)cup_left(now_ms, state->since_ms, dose->soak_ms),
        (int32_t)(given ? dose->dose_ms : dose->soak_ms));
}
