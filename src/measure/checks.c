/* Jump, stuck, too near, bounce, and what is steady enough to show. */
#include "checks.h"

#if CUP_USES_CHECKS

enum {
    CHECKS_HAVE_LAST = 1, /* `last` was accepted */
    CHECKS_CANDIDATE = 2, /* `last` is a first sample nobody agreed with */
    CHECKS_HAVE_RAW = 4,  /* `raw` and `same_ms` count */
    CHECKS_SHOWING = 8,   /* `shown` counts */
    CHECKS_BOUNCING = 16, /* a switch differs from what was accepted */
    CHECKS_NEAR = 32      /* the last sample was too near */
};

/* How far the value may move in a time; saturates. */
static uint32_t reach(uint32_t per_s, uint32_t ms)
{
    uint32_t s = ms / 1000;
    uint32_t rest = ms % 1000;
    uint32_t part = per_s / 1000 * rest + per_s % 1000 * rest / 1000;
    if (s > 0 && per_s > (UINT32_MAX - part) / s)
        return UINT32_MAX;
    return per_s * s + part;
}

/* The first reference needs two samples that agree. */
static uint8_t judge_jump(const struct cup_sensor_use *use, uint32_t now_ms,
                          cup_value value)
{
    struct cup_checks_state *state = use->checks;
    uint32_t passed = cup_elapsed(now_ms, state->last_ms);
    bool agrees = cup_gap(value, state->last) <=
                  reach(use->sensor->checks->jump_per_s, passed);
    bool first = !(state->flags & (CHECKS_HAVE_LAST | CHECKS_CANDIDATE));
    if ((state->flags & CHECKS_HAVE_LAST) && !agrees)
        return CUP_REASON_JUMP;
    state->last = value;
    state->last_ms = now_ms;
    state->flags &= (uint16_t) ~(CHECKS_HAVE_LAST | CHECKS_CANDIDATE);
    bool sure = agrees && !first;
    state->flags |= sure ? CHECKS_HAVE_LAST : CHECKS_CANDIDATE;
    return sure ? CUP_REASON_NONE : CUP_REASON_NOT_READY;
}

static uint8_t judge_stuck(const struct cup_sensor_use *use, uint32_t now_ms,
                           uint16_t stored)
{
    struct cup_checks_state *state = use->checks;
    bool same = (state->flags & CHECKS_HAVE_RAW) && state->raw == stored;
    if (!same) {
        state->raw = stored;
        state->same_ms = now_ms;
        state->flags |= CHECKS_HAVE_RAW;
        return CUP_REASON_NONE;
    }
    uint32_t limit = use->sensor->checks->stuck_ms;
    if (cup_elapsed(now_ms, state->same_ms) < limit)
        return CUP_REASON_NONE;
    state->same_ms = now_ms - limit; /* stays over, however long */
    return CUP_REASON_STUCK;
}

/* Keeps the accepted position until a change has lasted. */
static uint16_t settle(const struct cup_sensor_use *use, uint32_t now_ms,
                       uint16_t stored)
{
    struct cup_checks_state *state = use->checks;
    uint16_t held = use->state->latest;
    bool known = use->state->reading.flags & CUP_READING_KNOWN;
    if (!known || stored == held) {
        state->flags &= (uint16_t)~CHECKS_BOUNCING;
        return stored;
    }
    if (!(state->flags & CHECKS_BOUNCING)) {
        state->flags |= CHECKS_BOUNCING;
        state->same_ms = now_ms;
    }
    if (cup_elapsed(now_ms, state->same_ms) < use->sensor->checks->debounce_ms)
        return held;
    state->flags &= (uint16_t)~CHECKS_BOUNCING;
    return stored;
}

/* A pulse counter runs through 16 bits; what counts is the difference. */
static uint8_t judge_pulses(const struct cup_sensor_use *use, uint32_t now_ms,
                            uint16_t *stored)
{
    struct cup_checks_state *state = use->checks;
    uint16_t pulses = (uint16_t)(*stored - state->raw);
    bool first = !(state->flags & CHECKS_HAVE_RAW);
    uint32_t passed = cup_elapsed(now_ms, state->last_ms);
    uint32_t every = use->sensor->every_ms;
    state->raw = *stored;
    state->last_ms = now_ms;
    state->flags |= CHECKS_HAVE_RAW;
    if (first || passed == 0)
        return CUP_REASON_NOT_READY;
    uint32_t rate = pulses;
    if (passed != every) /* an answer was missed, or came at another time */
        rate = cup_scale(pulses, every, passed);
    *stored = rate > UINT16_MAX ? UINT16_MAX : (uint16_t)rate;
    return CUP_REASON_NONE;
}

/* What is nearer than the ranger can see may be the water at the brim, or a
 * spider in the beam: the span of its tank knows. One such sample alone says
 * nothing. */
static uint8_t judge_near(const struct cup_sensor_use *use)
{
    struct cup_checks_state *state = use->checks;
    bool again = state->flags & CHECKS_NEAR;
    state->flags |= CHECKS_NEAR;
    return again && use->sensor->checks->brim > 0 ? CUP_CHECKS_FULL
                                                  : CUP_REASON_NEAR;
}

uint8_t cup_checks_judge(const struct cup_sensor_use *use, uint32_t now_ms,
                         bool lost, uint16_t *stored)
{
    CUP_FLASH struct cup_checks *checks = use->sensor->checks;
    struct cup_checks_state *state = use->checks;
    if (lost)
        state->flags &= (uint16_t) ~(CHECKS_HAVE_LAST | CHECKS_SHOWING);
    if (use->sensor->form == CUP_FORM_PULSES)
        return judge_pulses(use, now_ms, stored);
    if (use->sensor->form == CUP_FORM_SWITCH) {
        *stored = settle(use, now_ms, *stored);
        return CUP_REASON_NONE;
    }
    uint8_t reason = CUP_REASON_NONE;
    cup_value value = cup_sensor_convert(use, *stored);
    if (value < checks->near)
        return judge_near(use);
    state->flags &= (uint16_t)~CHECKS_NEAR;
    if (checks->stuck_ms > 0)
        reason = judge_stuck(use, now_ms, *stored);
    if (reason == CUP_REASON_NONE && checks->jump_per_s > 0)
        reason = judge_jump(use, now_ms, value);
    return reason;
}

void cup_checks_steady(const struct cup_sensor_use *use, uint32_t now_ms)
{
    CUP_FLASH struct cup_checks *checks = use->sensor->checks;
    struct cup_checks_state *state = use->checks;
    cup_value value = use->state->reading.value;
    if (checks->steady_ms == 0 || !(state->flags & CHECKS_SHOWING)) {
        state->shown = state->centre = value;
        state->band_ms = now_ms;
        state->flags |= CHECKS_SHOWING;
        return;
    }
    if (cup_gap(value, state->centre) > (uint32_t)checks->band) {
        state->centre = value;
        state->band_ms = now_ms;
        return;
    }
    if (cup_elapsed(now_ms, state->band_ms) < checks->steady_ms)
        return;
    state->shown = state->centre = value;
    state->band_ms = now_ms;
}

#endif
