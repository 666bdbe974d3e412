/* A little at a time. */
#include "cuplatch/dose.h"

#include <string.h>

/* From one value to another. */
#if CUP_NARROW
typedef uint16_t cup_span;
#else
typedef uint32_t cup_span;
#endif

static void enter(struct cup_dose_state *state, struct cup_latch_state *latch,
                  enum cup_dose_phase phase, uint32_t now_ms)
{
    latch->own[CUP_DOSE_PHASE] = (uint8_t)phase;
    state->since_ms = now_ms;
}

/* What was given more than 24 h ago counts no more. */
static void age_doses(struct cup_dose_state *state, uint32_t now_ms)
{
    while (state->today > 0 &&
           cup_elapsed(now_ms, state->part_ms) >= CUP_DOSE_PART_MS) {
        state->today = (uint8_t)(state->today - state->part[CUP_DOSE_PARTS]);
        for (uint8_t i = CUP_DOSE_PARTS; i > 0; i--)
            state->part[i] = state->part[i - 1];
        state->part[0] = 0;
        state->part_ms += CUP_DOSE_PART_MS;
    }
}

static void count_dose(struct cup_dose_state *state, uint32_t now_ms)
{
    age_doses(state, now_ms);
    if (state->today == UINT8_MAX)
        return;
    if (state->today == 0)
        state->part_ms = now_ms;
    state->today++;
    state->part[0]++;
}

void cup_dose_begin(struct cup_dose_state *state, struct cup_latch_state *latch,
                    uint32_t now_ms, cup_value value)
{
    enter(state, latch, CUP_DOSE_GIVEN, now_ms);
    state->base = value;
    count_dose(state, now_ms);
    if (state->given < UINT8_MAX)
        state->given++;
    if (latch->own[CUP_DOSE_COUNT] < UINT8_MAX)
        latch->own[CUP_DOSE_COUNT]++;
}

/* While the pump runs for it. A shortest run may go on after its time; the
 * water soaks in from the end of that. */
static void give(CUP_NUMBERS struct cup_dose *dose,
                 struct cup_dose_state *state, struct cup_latch_state *latch,
                 uint32_t now_ms)
{
    uint8_t phase = latch->own[CUP_DOSE_PHASE];
    if (phase == CUP_DOSE_SOAKS ||
        (phase == CUP_DOSE_GIVEN &&
         cup_is_past(now_ms, &state->since_ms, &dose->dose_ms)))
        enter(state, latch, CUP_DOSE_SOAKS, now_ms);
}

/* A tenth of the way from start to stop, up or down. */
#if CUP_USES_SETTINGS
static bool is_answer(CUP_NUMBERS struct cup_dose *dose,
                      CUP_NUMBERS struct cup_latch *marks, bool up,
                      cup_span gained)
{
    (void)dose;
    return up == (marks->stop > marks->start) &&
           (gained > UINT32_MAX / 10 ||
            gained * 10 >= cup_gap(marks->stop, marks->start));
}
#else
static bool is_answer(CUP_NUMBERS struct cup_dose *dose,
                      CUP_NUMBERS struct cup_latch *marks, bool up,
                      cup_span gained)
{
    cup_value answer = dose->answer;
    (void)marks;
    return up == (answer > 0) && gained >= (cup_span)(up ? answer : -answer);
}
#endif

void cup_dose_judge(CUP_NUMBERS struct cup_dose *dose,
                    const struct cup_dose_state *state,
                    CUP_NUMBERS struct cup_latch *marks,
                    struct cup_latch_state *latch, cup_value value)
{
    uint8_t *count = &latch->own[CUP_DOSE_COUNT];
    bool up = value > state->base;
    cup_span gained = (cup_span)((cup_span)value - (cup_span)state->base);
    if ((!CUP_USES_STEERING || *count > 0) && /* it was not cleared since */
        is_answer(dose, marks, up, up ? gained : (cup_span)-gained))
        --*count;
}

void cup_dose_limit(CUP_NUMBERS struct cup_dose *dose,
                    const struct cup_dose_state *state,
                    struct cup_latch_state *latch)
{
    uint8_t most = dose->doses;
    if (most == 0)
        return;
    if (latch->own[CUP_DOSE_COUNT] >= most || state->given >= most * 4u)
        latch->own[CUP_DOSE_PHASE] = CUP_DOSE_OUT;
    else if (state->today >= most * 4u)
        latch->own[CUP_DOSE_PHASE] = CUP_DOSE_DAY;
}

/* No dose was given yet. */
static void forget_doses(struct cup_dose_state *state,
                         struct cup_latch_state *latch)
{
    latch->own[CUP_DOSE_COUNT] = 0;
    state->given = 0;
}

void cup_dose_clear(struct cup_dose_state *state, struct cup_latch_state *latch)
{
    uint8_t *phase = &latch->own[CUP_DOSE_PHASE];
    forget_doses(state, latch);
    state->today = 0;
    memset(state->part, 0, sizeof(state->part));
    if (*phase != CUP_DOSE_GIVEN && *phase != CUP_DOSE_SOAKS)
        *phase = CUP_DOSE_AFRESH;
}

void cup_dose_see(struct cup_dose_state *state, struct cup_latch_state *latch,
                  bool past_stop)
{
    state->past = (uint8_t)(state->past << 1 & 2) | past_stop;
    if (state->past < 3 || latch->on)
        return;
    forget_doses(state, latch);
    if (latch->own[CUP_DOSE_PHASE] == CUP_DOSE_OUT)
        latch->own[CUP_DOSE_PHASE] = CUP_DOSE_READY;
}

/* How long a step need not be made. */
static uint32_t dose_left(CUP_NUMBERS struct cup_dose *dose,
                          const struct cup_dose_state *state, uint8_t phase,
                          uint32_t now_ms, bool running)
{
    if (phase == CUP_DOSE_READY && state->today > 0)
        return cup_left(now_ms, state->part_ms, CUP_DOSE_PART_MS);
    if (phase == CUP_DOSE_SOAKS) /* it soaks from the end of its run */
        return running ? 0 : cup_left(now_ms, state->since_ms, dose->soak_ms);
    return running && phase == CUP_DOSE_GIVEN
               ? cup_left(now_ms, state->since_ms, dose->dose_ms)
               : UINT32_MAX;
}

uint32_t cup_dose_step(CUP_NUMBERS struct cup_dose *dose,
                       struct cup_dose_state *state,
                       struct cup_latch_state *latch, uint32_t now_ms,
                       bool running)
{
    uint8_t *phase = &latch->own[CUP_DOSE_PHASE];
    age_doses(state, now_ms);
    if (running)
        give(dose, state, latch, now_ms);
    else if (*phase == CUP_DOSE_GIVEN)
        enter(state, latch, CUP_DOSE_SOAKS, now_ms);
    if (*phase == CUP_DOSE_SOAKS &&
        cup_is_past(now_ms, &state->since_ms, &dose->soak_ms))
        enter(state, latch, CUP_DOSE_READY, now_ms);
    if (CUP_USES_STEERING && *phase == CUP_DOSE_AFRESH)
        *phase = CUP_DOSE_READY;
    return CUP_USES_QUIET ? dose_left(dose, state, *phase, now_ms, running) : 0;
}

uint8_t cup_dose_cause(CUP_NUMBERS struct cup_dose *dose,
                       const struct cup_dose_state *state,
                       const struct cup_latch_state *latch, uint32_t now_ms,
                       struct cup_cause *cause)
{
    uint8_t phase = latch->own[CUP_DOSE_PHASE];
    if (phase == CUP_DOSE_OUT)
        return cup_cause_set(cause, CUP_REASON_DOSES_OUT, state->given, 0);
    if (phase == CUP_DOSE_DAY)
        return cup_cause_set(cause, CUP_REASON_DOSES_DAY, state->today, 0);
    if (phase != CUP_DOSE_SOAKS)
        return CUP_REASON_NONE;
    bool given = cup_elapsed(now_ms, state->since_ms) == 0;
    return cup_cause_set(
        cause, given ? CUP_REASON_DOSE_GIVEN : CUP_REASON_SOAKS,
        (int32_t)cup_left(now_ms, state->since_ms, dose->soak_ms),
        (int32_t)(given ? dose->dose_ms : dose->soak_ms));
}
