/* Parts by themselves, to the last millisecond and count. */
#include "../harness/harness.h"
#include "cuplatch/pump.h"
#include "cuplatch/watch.h"

/* Limits of a day, to the millisecond and to the start. */
CASE(a_day_is_over_at_its_limit_and_not_before)
{
    static const struct cup_per_day time = {.time_ms = 1};
    static const struct cup_per_day volume = {.volume_ms = 1, .volume_ml = 7};
    static const struct cup_per_day once = {.starts = 1};
    static const struct cup_per_day none = {.starts = 0};
    struct cup_per_day_state day = {.starts = 9};
    cup_per_day_begin(&day, 5, 0, false);
    CHECK_INT(day.ran_ms, 0);
    CHECK_INT(cup_per_day_left(&time, &day, 0), 1);
    CHECK_INT(cup_per_day_left(&time, &day, 1), 0);
    CHECK_INT(cup_per_day_left(&time, &day, 2), 0);
    CHECK_INT(cup_per_day_left(&volume, &day, 0), 1);
    CHECK_INT(cup_per_day_left(&volume, &day, 1), 0);
    CHECK(cup_per_day_left(&none, &day, 1) == UINT32_MAX);
    CHECK_INT(cup_per_day_cause(&time, &day, 0, true).reason, CUP_REASON_NONE);
    CHECK_INT(cup_per_day_cause(&time, &day, 1, true).reason,
              CUP_REASON_DAY_TIME);
    struct cup_cause cause = cup_per_day_cause(&volume, &day, 1, true);
    CHECK_INT(cause.reason, CUP_REASON_DAY_VOLUME);
    CHECK_INT(cause.limit, 7);
    cause = cup_per_day_cause(&once, &day, 0, false);
    CHECK_INT(cause.reason, CUP_REASON_NONE);
    CHECK_INT(cause.value, 0);
    CHECK_INT(cause.limit, 0);
    cup_per_day_start(&day);
    CHECK_INT(cup_per_day_cause(&once, &day, 0, true).reason, CUP_REASON_NONE);
    CHECK_INT(cup_per_day_cause(&once, &day, 0, false).reason,
              CUP_REASON_DAY_STARTS);
    day.starts = UINT16_MAX;
    cup_per_day_start(&day);
    CHECK_INT(day.starts, UINT16_MAX);
    cup_per_day_begin(&day, 5, 40, true);
    CHECK_INT(day.starts, 1);
    cup_per_day_stop(&day, 100);
    CHECK_INT(day.ran_ms, 60);
}

/* Windows in a row: what one came to says nothing of the next. */
static enum cup_verdict judge(const struct cup_proof *proof,
                              struct cup_proof_state *state, bool mixed,
                              int32_t value)
{
    struct cup_cause cause;
    state->mixed = mixed;
    return cup_proof_judge(proof, state, 1000, value, &cause);
}

CASE(windows_that_are_unsure_are_counted_in_a_row)
{
    static const struct cup_proof rises = {
        .change = 10, .within_ms = 100, .kind = CUP_PROOF_RISES};
    struct cup_proof_state state = {.base = 0};
    CHECK_INT(judge(&rises, &state, true, 0), CUP_UNSURE);
    CHECK_INT(judge(&rises, &state, true, 0), CUP_UNSURE);
    CHECK_INT(judge(&rises, &state, false, 10), CUP_PROVED);
    CHECK_INT(state.ran_ms, 0);
    CHECK_INT(judge(&rises, &state, true, 10), CUP_UNSURE);
    CHECK_INT(judge(&rises, &state, true, 10), CUP_UNSURE);
    CHECK_INT(judge(&rises, &state, true, 10), CUP_FAILED);
    CHECK_INT(judge(&rises, &state, true, 10), CUP_UNSURE);
    CHECK_INT(judge(&rises, &state, true, 10), CUP_UNSURE);
    CHECK_INT(judge(&rises, &state, false, 19), CUP_FAILED);
    CHECK_INT(judge(&rises, &state, true, 19), CUP_UNSURE);
}

CASE(a_value_that_was_above_counts_only_over_several_runs)
{
    static const struct cup_proof above = {
        .change = 10, .within_ms = 100, .kind = CUP_PROOF_ABOVE};
    struct cup_proof_state state = {.base = 0};
    cup_proof_start(&state, 0, 0);
    cup_proof_see(&above, &state, 10);
    CHECK_INT(state.gained, 1);
    CHECK_INT(judge(&above, &state, false, 9), CUP_FAILED); /* one run */
    cup_proof_start(&state, 0, 0);
    cup_proof_see(&above, &state, 10);
    cup_proof_stop(&above, &state, 1, 0);
    CHECK_INT(state.ran_ms, 1);
    cup_proof_start(&state, 5, 0);
    CHECK_INT(judge(&above, &state, false, 9), CUP_PROVED);
    cup_proof_start(&state, 0, 0);
    cup_proof_stop(&above, &state, 1, 0);
    cup_proof_stop(&above, &state, 1000, 0);
    CHECK_INT(state.ran_ms, 100);
    CHECK_INT(judge(&above, &state, false, 9), CUP_FAILED);
}

/* Four reasons each, in the order of the guards; no other is a guard's. */
CASE(every_reason_leads_to_its_guard)
{
    static const struct cup_guard guards[] = {
        {.mark = 10, .clear = 20, .kind = CUP_GUARD_SOURCE},
        {.mark = 90, .clear = 80, .kind = CUP_GUARD_DESTINATION},
        {.mark = 11, .clear = 12, .kind = CUP_GUARD_SUPPLY}};
    static const struct cup_pump pump = {.guards = guards, .guard_count = 3};
    for (int i = 0; i < 12; i++) {
        harness_at("reason %d", i);
        CHECK(cup_guard_of(&pump, (uint8_t)(CUP_REASON_SOURCE_LOW + i)) ==
              &guards[i / 4]);
    }
    harness_at(NULL);
    CHECK(cup_guard_of(&pump, CUP_REASON_SOURCE_LOW - 1) == NULL);
    CHECK(cup_guard_of(&pump, CUP_REASON_SOURCE_LOW + 12) == NULL);
}

/* A guard's cause names the mark that ends it, seen from where the value is. */
CASE(a_guards_cause_has_the_mark_it_is_about)
{
    static const struct cup_guard low = {.mark = 10, .clear = 20};
    struct cup_reading reading = {.value = 9};
    CHECK_INT(cup_guard_cause(&low, 1, reading).limit, 10);
    reading.value = 10;
    CHECK_INT(cup_guard_cause(&low, 1, reading).limit, 20);
}

/* A window says nothing before it is over, however far the value has moved. */
CASE(a_watch_says_nothing_before_its_window_is_over)
{
    static const struct cup_watch watch = {
        .change = 10, .within_ms = 100, .kind = CUP_WATCH_LEAK};
    struct cup_watch_state state = {.base = 0};
    int32_t shown = 0;
    cup_watch_step(&watch, &state, 0, true, 1000, &shown);
    for (uint32_t t = 0; t < 100; t++) {
        harness_at("%u ms", (unsigned)t);
        CHECK_INT(cup_watch_step(&watch, &state, t, false, 900, &shown),
                  CUP_WATCH_NOTHING);
    }
    harness_at(NULL);
}

/* A slope that would not fit beyond the ends of its curve. */
CASE(a_curve_that_goes_on_must_not_be_steep)
{
    struct cup_knot knots[2];
    static const struct cup_point points[] = {{0, 0}, {1, 2000}};
    CHECK_INT(cup_curve_make(knots, points, 2, false), CUP_ERROR_RANGE);
    CHECK_INT(cup_curve_make(knots, points, 2, true), CUP_OK);
}
