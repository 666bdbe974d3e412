/* Parts by themselves, to the last millisecond and count. */
#include "../harness/harness.h"
#include "cuplatch/curve.h"
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
    struct cup_cause cause = {.limit = 0};
    CHECK_INT(cup_per_day_cause(&time, &day, 0, true, &cause), CUP_REASON_NONE);
    CHECK_INT(cup_per_day_cause(&time, &day, 1, true, &cause),
              CUP_REASON_DAY_TIME);
    CHECK_INT(cup_per_day_cause(&volume, &day, 1, true, &cause),
              CUP_REASON_DAY_VOLUME);
    CHECK_INT(cause.reason, CUP_REASON_DAY_VOLUME);
    CHECK_INT(cause.limit, 7);
    CHECK_INT(cup_per_day_cause(&once, &day, 0, false, &cause),
              CUP_REASON_NONE);
    cup_per_day_start(&day);
    CHECK_INT(cup_per_day_cause(&once, &day, 0, true, &cause), CUP_REASON_NONE);
    CHECK_INT(cup_per_day_cause(&once, &day, 0, false, &cause),
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
    state->flags = mixed ? CUP_PROOF_HELPED : 0;
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
    /* what shows though another pump drew proves */
    state.flags = CUP_PROOF_HINDERED;
    CHECK_INT(cup_proof_judge(&rises, &state, 1000, 29, &(struct cup_cause){0}),
              CUP_PROVED);
    CHECK_INT(state.unsure, 0);
    state.flags = CUP_PROOF_HINDERED;
    CHECK_INT(cup_proof_judge(&rises, &state, 1000, 38, &(struct cup_cause){0}),
              CUP_UNSURE);
}

CASE(what_a_run_moved_counts_until_its_lag_is_over)
{
    static const struct cup_proof rises = {
        .change = 10, .within_ms = 5000, .lag_ms = 4000};
    struct cup_cause cause;
    struct cup_proof_state state = {0};
    cup_proof_start(&state, 0, 100);
    cup_proof_stop(&rises, &state, 2000);
    CHECK_INT(cup_proof_settle(&rises, &state, 3000, 104, 0), 3000);
    CHECK_INT(cup_proof_settle(&rises, &state, 6000, 106, 0), 0);
    /* what it loses from then on is somebody else's */
    cup_proof_start(&state, 20000, 40);
    /* a start within the lag goes on from the same base */
    cup_proof_stop(&rises, &state, 21000);
    cup_proof_start(&state, 22000, 42);
    CHECK_INT(cup_proof_judge(&rises, &state, 24000, 44, &cause), CUP_PROVED);
    cup_proof_stop(&rises, &state, 26000);
    /* another pump begins: what comes after is not its own */
    CHECK_INT(cup_proof_settle(&rises, &state, 26500, 45, CUP_PROOF_HELPED), 0);
    CHECK_INT(state.gained, 1);
    CHECK_INT(state.flags, CUP_PROOF_HELPED);
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
    cup_proof_stop(&above, &state, 1);
    CHECK_INT(state.ran_ms, 1);
    cup_proof_start(&state, 5, 0);
    CHECK_INT(judge(&above, &state, false, 9), CUP_PROVED);
    cup_proof_start(&state, 0, 0);
    cup_proof_stop(&above, &state, 1);
    cup_proof_stop(&above, &state, 1000);
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
    struct cup_cause cause;
    CHECK_INT(cup_guard_cause(&low, 1, 9, 9, &cause), 1);
    CHECK_INT(cause.limit, 10);
    CHECK_INT(cup_guard_cause(&low, 2, 10, 10, &cause), 2);
    CHECK_INT(cause.limit, 20);
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

/* One window, from calm: what it says of a value at its end, and the next. */
static enum cup_watch_says end_window(const struct cup_watch *watch,
                                      struct cup_watch_state *state,
                                      uint32_t now_ms, int32_t value)
{
    int32_t shown = -1;
    CHECK_INT(
        cup_watch_step(watch, state, now_ms - 1, false, INT32_MIN, &shown),
        CUP_WATCH_NOTHING);
    CHECK_INT(cup_watch_left(watch, state, now_ms - 1), 1);
    enum cup_watch_says says =
        cup_watch_step(watch, state, now_ms, false, value, &shown);
    CHECK_INT(cup_watch_left(watch, state, now_ms), watch->within_ms);
    return says;
}

CASE(a_leak_is_told_at_its_change_once_and_when_it_is_over)
{
    static const struct cup_watch falls = {.change = 10, .within_ms = 100};
    static const struct cup_watch rises = {
        .change = 10, .within_ms = 100, .way = CUP_WATCH_RISES};
    static const struct cup_watch above = {
        .change = 10, .within_ms = 100, .way = CUP_WATCH_ABOVE};
    static const struct {
        const struct cup_watch *watch;
        int32_t way;
    } kinds[] = {{&falls, -1}, {&rises, 1}, {&above, 0}};
    for (size_t i = 0; i < sizeof(kinds) / sizeof(kinds[0]); i++) {
        const struct cup_watch *watch = kinds[i].watch;
        int32_t way = kinds[i].way;
        int32_t nine = way ? 500 + 9 * way : 9;
        int32_t ten = way ? nine + 10 * way : 10;
        int32_t rest = way ? ten : 9;
        struct cup_watch_state state = {.base = 0};
        int32_t shown = -1;
        harness_at("kind %zu", i);
        CHECK(cup_watch_left(watch, &state, 0) == UINT32_MAX);
        cup_watch_step(watch, &state, 0, false, 500, &shown);
        CHECK_INT(end_window(watch, &state, 100, 500), CUP_WATCH_NOTHING);
        CHECK_INT(end_window(watch, &state, 200, nine), CUP_WATCH_NOTHING);
        CHECK_INT(end_window(watch, &state, 300, ten), CUP_WATCH_ALERT);
        CHECK_INT(end_window(watch, &state, 400, ten + 10 * way),
                  CUP_WATCH_NOTHING);
        rest += 10 * way;
        CHECK_INT(end_window(watch, &state, 500, rest), CUP_WATCH_OVER);
        CHECK_INT(end_window(watch, &state, 600, rest), CUP_WATCH_NOTHING);
        cup_watch_step(watch, &state, 601, true, 0, &shown);
        CHECK(cup_watch_left(watch, &state, 601) == UINT32_MAX);
    }
    harness_at(NULL);
}

/* After a disturbance the first window says nothing, not even that it is over:
 * the water comes to rest. */
CASE(a_leak_is_not_over_because_something_ran)
{
    static const struct cup_watch falls = {.change = 10, .within_ms = 100};
    struct cup_watch_state state = {.flags = CUP_WATCH_TOLD};
    int32_t shown = 0;
    cup_watch_step(&falls, &state, 0, true, 500, &shown);
    cup_watch_step(&falls, &state, 0, false, 500, &shown);
    CHECK_INT(end_window(&falls, &state, 100, 500), CUP_WATCH_NOTHING);
    CHECK_INT(end_window(&falls, &state, 200, 500), CUP_WATCH_OVER);
}

/* Noise may pass for one window of what is quick, and for two. */
CASE(what_should_stand_still_is_told_in_the_third_window)
{
    static const struct cup_watch still = {
        .change = 10, .within_ms = 100, .kind = CUP_WATCH_STILL};
    struct cup_watch_state state = {.base = 0};
    int32_t shown = 0;
    int32_t value = 1000;
    uint32_t t = 200;
    cup_watch_step(&still, &state, 0, false, value, &shown);
    end_window(&still, &state, 100, value);
    for (int good = 1; good <= 2; good++) { /* two bad ones and a good one */
        CHECK_INT(end_window(&still, &state, t, value -= 10),
                  CUP_WATCH_NOTHING);
        CHECK_INT(end_window(&still, &state, t + 100, value -= 10),
                  CUP_WATCH_NOTHING);
        CHECK_INT(end_window(&still, &state, t + 200, value),
                  CUP_WATCH_NOTHING);
        t += 300;
    }
    for (int bad = 1; bad <= 9; bad++, t += 100) {
        harness_at("bad window %d", bad);
        CHECK_INT(end_window(&still, &state, t, value -= 10),
                  bad == CUP_WATCH_STILL_WINDOWS ? CUP_WATCH_ALERT
                                                 : CUP_WATCH_NOTHING);
    }
    harness_at(NULL);
    CHECK_INT(end_window(&still, &state, t, value), CUP_WATCH_OVER);
}

CASE(a_run_that_gave_more_than_its_tank_held_is_told_once)
{
    static const struct cup_watch watch = {.change = 6000,
                                           .kind = CUP_WATCH_VOLUME};
    struct cup_watch_state state = {.base = 0};
    int32_t shown = -1;
    CHECK_INT(cup_watch_volume(&watch, &state, true, 0, 1000, &shown),
              CUP_WATCH_NOTHING);
    CHECK_INT(cup_watch_volume(&watch, &state, true, 10000, 900, &shown),
              CUP_WATCH_NOTHING);
    CHECK_INT(cup_watch_volume(&watch, &state, true, 10001, 900, &shown),
              CUP_WATCH_ALERT);
    CHECK_INT(shown, 1000);
    CHECK_INT(cup_watch_volume(&watch, &state, true, 10002, 900, &shown),
              CUP_WATCH_NOTHING);
    CHECK_INT(cup_watch_volume(&watch, &state, false, 0, 900, &shown),
              CUP_WATCH_NOTHING);
    CHECK_INT(cup_watch_volume(&watch, &state, true, 1, 900, &shown),
              CUP_WATCH_OVER);
    CHECK_INT(cup_watch_volume(&watch, &state, true, 9001, 901, &shown),
              CUP_WATCH_NOTHING); /* filled meanwhile */
    CHECK_INT(shown, 901);
    CHECK_INT(cup_watch_volume(&watch, &state, true, 9011, 2, &shown),
              CUP_WATCH_ALERT);
}

/* A slope that would not fit beyond the ends of its curve. */
CASE(a_curve_that_goes_on_must_not_be_steep)
{
    struct cup_knot knots[2];
    static const struct cup_point points[] = {{0, 0}, {1, 2000}};
    CHECK_INT(cup_curve_make(knots, points, 2, false), CUP_ERROR_RANGE);
    CHECK_INT(cup_curve_make(knots, points, 2, true), CUP_OK);
}

/* A run against the water in its tank: nothing to say before half of it is
 * given, and nothing more once it was said. */
CASE(a_volume_is_left_alone_for_as_long_again)
{
    static const struct cup_watch watch = {.change = 6000,
                                           .kind = CUP_WATCH_VOLUME};
    struct cup_watch_state state = {.base = 1000, .flags = CUP_WATCH_BEGUN};
    CHECK_INT(cup_watch_volume_left(&watch, &state, 4999), 4999);
    CHECK_INT(cup_watch_volume_left(&watch, &state, 5000), 5000);
    CHECK_INT(cup_watch_volume_left(&watch, &state, 5001), 0);
    state.flags |= CUP_WATCH_TOLD;
    CHECK(cup_watch_volume_left(&watch, &state, 5001) == UINT32_MAX);
}
