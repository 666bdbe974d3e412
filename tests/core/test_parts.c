/* Parts by themselves, to the last millisecond and count. */
#include "../harness/harness.h"
#include "cuplatch/day.h"
#include "cuplatch/dose.h"
#include "cuplatch/pump.h"
#include "cuplatch/turn.h"
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

/* Hours hold from their first minute to the one before their last, and may go
 * past midnight. */
CASE(hours_hold_from_the_first_minute_to_the_last)
{
    static const struct {
        uint16_t from;
        uint16_t to;
        uint16_t minute;
        bool within;
    } rows[] = {{360, 1200, 359, false},
                {360, 1200, 360, true},
                {360, 1200, 1199, true},
                {360, 1200, 1200, false},
                {1200, 360, 1199, false},
                {1200, 360, 1200, true},
                {1200, 360, 1439, true},
                {1200, 360, 0, true},
                {1200, 360, 359, true},
                {1200, 360, 360, false},
                {600, 600, 600, false},
                {600, 600, 0, false},
                {0, 1439, 0, true},
                {1200, 360, CUP_NO_MINUTE, false},
                {360, 1200, CUP_NO_MINUTE, false}};
    for (size_t i = 0; i < sizeof(rows) / sizeof(rows[0]); i++) {
        harness_at("row %zu", i);
        CHECK_INT(cup_within(rows[i].from, rows[i].to, rows[i].minute),
                  rows[i].within);
    }
    harness_at(NULL);
}

/* Day and night by light alone: what is known, and from when. */
static unsigned see(const struct cup_day *day, struct cup_latch_state *state,
                    uint32_t now_ms, int32_t value)
{
    bool usable = value >= 0;
    cup_day_step(day, state, now_ms, usable, value, true, CUP_NO_MINUTE);
    return cup_day_flags(state);
}

CASE(a_day_by_light_is_known_once_the_light_is)
{
    static const struct cup_day day = {.latch = {6000, 4000, 1000}, .light = 0};
    struct cup_latch_state state = {.on = false};
    CHECK_INT(see(&day, &state, 0, -1), 0);
    CHECK_INT(see(&day, &state, 1, 4000), CUP_DAY_KNOWN);
    CHECK_INT(see(&day, &state, 2, 3999), CUP_DAY_KNOWN | CUP_DAY_WAS_NIGHT);
    CHECK_INT(see(&day, &state, 3, -1), CUP_DAY_KNOWN | CUP_DAY_WAS_NIGHT);
    CHECK_INT(see(&day, &state, 1000, 6001), CUP_DAY_KNOWN | CUP_DAY_WAS_NIGHT);
    CHECK_INT(see(&day, &state, 1999, -1), CUP_DAY_KNOWN | CUP_DAY_WAS_NIGHT);
    see(&day, &state, 2000, 6001); /* the crossing begins afresh */
    CHECK_INT(see(&day, &state, 2999, 6001), CUP_DAY_KNOWN | CUP_DAY_WAS_NIGHT);
    CHECK_INT(see(&day, &state, 3000, 6001), CUP_DAY_KNOWN | CUP_DAY_WAS_NIGHT |
                                                 CUP_DAY_IS_DAY |
                                                 CUP_DAY_IS_DAWN);
    CHECK_INT(see(&day, &state, 3001, 6001),
              CUP_DAY_KNOWN | CUP_DAY_WAS_NIGHT | CUP_DAY_IS_DAY);
}

/* A first light that is bright is a dawn, but no night was seen before it; the
 * dusk after it is. */
CASE(a_day_that_began_before_the_boot_had_no_night)
{
    static const struct cup_day day = {.latch = {6000, 4000, 0}, .light = 0};
    struct cup_latch_state state = {.on = false};
    CHECK_INT(see(&day, &state, 0, 9000),
              CUP_DAY_KNOWN | CUP_DAY_IS_DAY | CUP_DAY_IS_DAWN);
    CHECK_INT(see(&day, &state, 1, 9000), CUP_DAY_KNOWN | CUP_DAY_IS_DAY);
    CHECK_INT(see(&day, &state, 2, 3999), CUP_DAY_KNOWN | CUP_DAY_WAS_NIGHT);
}

/* By the clock alone a day is known as soon as the clock is. */
CASE(a_day_by_the_clock_is_known_once_the_clock_is)
{
    static const struct cup_day day = {
        .light = CUP_NONE, .from = 360, .to = 1200};
    static const struct cup_day none = {.light = CUP_NONE};
    struct cup_latch_state state = {.on = false};
    struct cup_latch_state other = {.on = false};
    CHECK(cup_day_step(&day, &state, 0, false, 0, false, CUP_NO_MINUTE) ==
          UINT32_MAX);
    CHECK_INT(cup_day_flags(&state), 0);
    cup_day_step(&day, &state, 1, false, 0, false, 100);
    CHECK_INT(cup_day_flags(&state), CUP_DAY_KNOWN | CUP_DAY_WAS_NIGHT);
    cup_day_step(&day, &state, 2, false, 0, false, 360);
    CHECK(cup_day_flags(&state) & CUP_DAY_IS_DAWN);
    cup_day_step(&none, &other, 1, false, 0, false, 100);
    CHECK_INT(cup_day_flags(&other), 0);
}

/* What a turn is owed, as it would be if its run ended now. */
CASE(what_a_turn_is_owed_runs_down_with_its_run)
{
    struct cup_turn_state state = {.from_ms = 100, .left_ms = 50};
    CHECK_INT(cup_turn_owed(&state, 120), 50);
    state.flags = CUP_TURN_RUNS;
    CHECK_INT(cup_turn_owed(&state, 100), 50);
    CHECK_INT(cup_turn_owed(&state, 120), 30);
    CHECK_INT(cup_turn_owed(&state, 150), 0);
    CHECK_INT(cup_turn_owed(&state, 200), 0);
    CHECK_INT(cup_turn_owed(&state, 99), 50); /* it has not begun */
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

/* A dose given to its end, and soaked in. */
static uint32_t give_dose(const struct cup_dose *dose,
                          struct cup_dose_state *state,
                          struct cup_latch_state *latch, uint32_t from_ms)
{
    cup_dose_step(dose, state, latch, from_ms, false, true, from_ms);
    cup_dose_step(dose, state, latch, from_ms + 10, false, true, from_ms);
    cup_dose_step(dose, state, latch, from_ms + 11, false, false, from_ms);
    cup_dose_step(dose, state, latch, from_ms + 31, false, false, from_ms);
    return from_ms + 40;
}

/* Without a limit there is always another, however many there were. */
CASE(doses_without_a_limit_never_run_out)
{
    static const struct cup_dose dose = {.dose_ms = 10, .soak_ms = 20};
    struct cup_dose_state state = {.since_ms = 0};
    struct cup_latch_state latch = {.on = true};
    uint32_t t = 0;
    for (int i = 1; i <= 300; i++) {
        harness_at("dose %d", i);
        t = give_dose(&dose, &state, &latch, t);
        CHECK_INT(latch.own[CUP_DOSE_PHASE], CUP_DOSE_READY);
        CHECK_INT(latch.own[CUP_DOSE_COUNT], i < 255 ? i : 255);
    }
    harness_at(NULL);
}

CASE(doses_with_a_limit_run_out_at_it)
{
    static const struct cup_dose dose = {
        .dose_ms = 10, .soak_ms = 20, .doses = 2};
    struct cup_dose_state state = {.since_ms = 0};
    struct cup_latch_state latch = {.on = true};
    uint32_t t = give_dose(&dose, &state, &latch, 0);
    CHECK_INT(latch.own[CUP_DOSE_PHASE], CUP_DOSE_READY);
    give_dose(&dose, &state, &latch, t);
    CHECK_INT(latch.own[CUP_DOSE_PHASE], CUP_DOSE_OUT);
}

CASE(a_limit_of_one_dose_is_one_dose)
{
    static const struct cup_dose dose = {
        .dose_ms = 10, .soak_ms = 20, .doses = 1};
    struct cup_dose_state state = {.since_ms = 0};
    struct cup_latch_state latch = {.on = true};
    give_dose(&dose, &state, &latch, 0);
    CHECK_INT(latch.own[CUP_DOSE_PHASE], CUP_DOSE_OUT);
}

/* Only water past the stop mark ends a session; a reading that was lost, or
 * hours that are over, do not: the doses given so far still count. */
CASE(doses_are_forgotten_only_past_the_stop_mark)
{
    static const struct cup_dose dose = {
        .dose_ms = 10, .soak_ms = 20, .doses = 2};
    struct cup_dose_state state = {.since_ms = 0};
    struct cup_latch_state latch = {.on = true};
    uint32_t t = give_dose(&dose, &state, &latch, 0);
    cup_latch_release(&latch);
    cup_dose_step(&dose, &state, &latch, t, false, false, 0);
    CHECK_INT(latch.own[CUP_DOSE_COUNT], 1);
    latch.on = true;
    cup_dose_step(&dose, &state, &latch, t, true, false, 0);
    CHECK_INT(latch.own[CUP_DOSE_COUNT], 1);
    latch.on = false;
    cup_dose_step(&dose, &state, &latch, t, true, false, 0);
    CHECK_INT(latch.own[CUP_DOSE_COUNT], 0);
}
