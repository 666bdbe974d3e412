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
                        struct cup_latch_state *latch,
                        const struct cup_dose_look *look)
{
    enter(state, latch, CUP_DOSE_GIVEN, look->run_since_ms);
    state->base = look->level;
    if (state->given < UINT8_MAX)
        state->given++;
    if (latch->own[CUP_DOSE_COUNT] < UINT8_MAX)
        latch->own[CUP_DOSE_COUNT]++;
}

/* So many brought nothing, or so many were given in all. */
static bool is_out(CUP_NUMBERS struct cup_dose *dose,
                   const struct cup_dose_state *state,
                   const struct cup_latch_state *latch)
{
    uint8_t most = dose->doses;
    return most > 0 && (latch->own[CUP_DOSE_COUNT] >= most ||
                        state->given >= most * 4u);
}

/* Whether the last dose brought the level a tenth of the way, or more. */
static bool has_answered(const struct cup_dose_state *state,
                         CUP_NUMBERS struct cup_latch *marks,
                         const struct cup_dose_look *look)
{
    cup_mark start = marks->start;
    cup_mark stop = marks->stop;
    if (!look->usable || (look->level > state->base) != (stop > start))
        return false;
    uint32_t gained = cup_gap(look->level, state->base);
    return gained > UINT32_MAX / 10 || gained * 10 >= cup_gap(stop, start);
}

/* While the pump runs for it. A shortest run may go on after its time; the
 * water soaks in from the end of that. */
static void give(CUP_NUMBERS struct cup_dose *dose,
                 struct cup_dose_state *state, struct cup_latch_state *latch,
                 uint32_t now_ms, const struct cup_dose_look *look)
{
    uint8_t *phase = &latch->own[CUP_DOSE_PHASE];
    if (*phase == CUP_DOSE_READY && latch->on)
        begin_phase(state, latch, look);
    if (*phase == CUP_DOSE_SOAKS ||
        (*phase == CUP_DOSE_GIVEN &&
         cup_is_past(now_ms, &state->since_ms, &dose->dose_ms)))
        enter(state, latch, CUP_DOSE_SOAKS, now_ms);
}

/* The water has had its time. */
static void look_again(struct cup_dose_state *state,
                       CUP_NUMBERS struct cup_latch *marks,
                       struct cup_latch_state *latch, uint32_t now_ms,
                       const struct cup_dose_look *look)
{
    if (has_answered(state, marks, look))
        latch->own[CUP_DOSE_COUNT]--;
    enter(state, latch, CUP_DOSE_READY, now_ms);
}

/* Counts samples in a row past stop. */
static void count_past(struct cup_dose_state *state,
                       CUP_NUMBERS struct cup_latch *marks,
                       const struct cup_dose_look *look)
{
    if (!look->usable || !cup_latch_past_stop(marks, look->level))
        state->past = 0;
    else if (look->sampled && state->past < 2)
        state->past++;
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
                       CUP_NUMBERS struct cup_latch *marks,
                       struct cup_latch_state *latch, uint32_t now_ms,
                       const struct cup_dose_look *look)
{
    uint8_t *phase = &latch->own[CUP_DOSE_PHASE];
    count_past(state, marks, look);
    if (look->running)
        give(dose, state, latch, now_ms, look);
    else if (*phase == CUP_DOSE_GIVEN)
        enter(state, latch, CUP_DOSE_SOAKS, now_ms);
    if (*phase == CUP_DOSE_SOAKS &&
        cup_is_past(now_ms, &state->since_ms, &dose->soak_ms))
        look_again(state, marks, latch, now_ms, look);
    if ((state->past > 1 && !latch->on) || *phase == CUP_DOSE_AFRESH) {
        cup_dose_clear(state, latch);
        *phase = CUP_DOSE_READY;
    }
    if (*phase == CUP_DOSE_READY && latch->on && is_out(dose, state, latch))
        *phase = CUP_DOSE_OUT;
    return CUP_USES_QUIET ? dose_left(dose, state, *phase, now_ms, look->running)
                          : 0;
}

uint8_t cup_dose_cause(CUP_NUMBERS struct cup_dose *dose,
                       const struct cup_dose_state *state,
                       const struct cup_latch_state *latch, uint32_t now_ms,
                       struct cup_cause *cause)
{
    uint8_t phase = latch->own[CUP_DOSE_PHASE];
    if (phase == CUP_DOSE_OUT)
        return latch->own[CUP_DOSE_COUNT] >= dose->doses
                   ? cup_cause_set(cause, CUP_REASON_DOSES_OUT,
                                   latch->own[CUP_DOSE_COUNT], 0)
                   : cup_cause_set(cause, CUP_REASON_DOSES_MANY, state->given,
                                   0);
    if (phase != CUP_DOSE_SOAKS)
        return CUP_REASON_NONE;
    bool given = cup_elapsed(now_ms, state->since_ms) == 0;
    return cup_cause_set(
        cause, given ? CUP_REASON_DOSE_GIVEN : CUP_REASON_SOAKS,
        (int32_t)cup_left(now_ms, state->since_ms, dose->soak_ms),
        (int32_t)(given ? dose->dose_ms : dose->soak_ms));
}
