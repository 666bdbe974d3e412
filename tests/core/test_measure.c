/* Sensors by themselves: checks to the last count and millisecond. */
#include "alone.h"
#include "cuplatch/tank.h"

/* Checks */

/* 64 bits and a division say how far it may move. */
CASE(a_jump_is_judged_to_the_last_step)
{
    struct chance chance = chance_from(harness_seed());
    for (int i = 0; i < 20000 && !harness_failed(); i++) {
        struct bench bench;
        struct cup_checks *checks = set_up_checks(&bench, CUP_FORM_COUNTS);
        checks->jump_per_s = (uint32_t)chance_between(&chance, 1, 5000);
        uint32_t ms = (uint32_t)chance_between(&chance, 1, 9000);
        int32_t far = (int32_t)((uint64_t)checks->jump_per_s * ms / 1000);
        int way = chance_of(&chance, 50) ? 1 : -1;
        int32_t from = way > 0 ? 0 : UINT16_MAX;
        harness_at("%u a s, %u ms", checks->jump_per_s, ms);
        CHECK_INT(hear(&bench, 0, from), CUP_REASON_NOT_READY);
        CHECK_INT(hear(&bench, 1, from), CUP_REASON_NONE);
        struct bench other = bench;
        other.use.state = &other.state;
        other.use.checks = &other.memory;
        other.use.cells = other.cells;
        other.use.order = other.order;
        CHECK_INT(hear(&bench, 1 + ms, from + way * far), CUP_REASON_NONE);
        CHECK_INT(hear(&other, 1 + ms, from + way * (far + 1)),
                  CUP_REASON_JUMP);
    }
    harness_at(NULL);
}

/* Values as far apart as a unit allows, at any rate that can be said: exact up
 * to what 32 bits can hold, and never less than that. */
#define FAR_POINTS 33
#define FAR_STEP (INT32_C(1) << 26)

static void make_far(struct cup_knot *knots)
{
    struct cup_point points[FAR_POINTS];
    for (int32_t i = 0; i < FAR_POINTS; i++)
        points[i] =
            (struct cup_point){(uint16_t)(i * 2000), (i - 16) * FAR_STEP};
    CHECK_INT(cup_curve_make(knots, points, FAR_POINTS, true), CUP_OK);
}

static void check_reach(const struct cup_curve *far, uint32_t per_s,
                        uint32_t ms, uint16_t raw)
{
    struct bench bench;
    set_up_checks(&bench, CUP_FORM_COUNTS)->jump_per_s = per_s;
    bench.sensor.curve = far;
    bench.sensor.lost_after_ms = UINT32_MAX;
    hear(&bench, 0, 0);
    hear(&bench, 0, 0);
    uint64_t gap = (uint64_t)((int64_t)cup_curve_value(far, raw) -
                              cup_curve_value(far, 0));
    bool may = gap <= (uint64_t)per_s * ms / 1000;
    CHECK_INT(hear(&bench, ms, raw), may ? CUP_REASON_NONE : CUP_REASON_JUMP);
}

CASE(a_jump_is_judged_at_any_rate)
{
    struct cup_knot knots[FAR_POINTS];
    const struct cup_curve far = {knots, FAR_POINTS, true};
    struct chance chance = chance_from(harness_seed());
    make_far(knots);
    for (int i = 0; i < 60000 && !harness_failed(); i++) {
        uint32_t per_s = chance_bits(&chance) >> chance_between(&chance, 0, 12);
        uint32_t ms = (uint32_t)chance_between(&chance, 1, 1 << 20) >>
                      chance_between(&chance, 0, 20);
        uint16_t raw = (uint16_t)chance_between(&chance, 0, 64000);
        harness_at("%u a s, %u ms, raw %d", per_s, ms, raw);
        check_reach(&far, per_s + (per_s == 0), ms, raw);
    }
    harness_at(NULL);
    for (uint32_t s = 1; s < 9; s++) /* where it would just come round */
        for (uint32_t rest = 1; rest < 1000; rest += 37) {
            uint32_t ms = s * 1000 + rest;
            uint32_t per_s = (uint32_t)(((uint64_t)1 << 32) * 1000 / ms);
            for (uint32_t by = 0; by < 3; by++)
                check_reach(&far, per_s - 1 + by, ms, 64000);
        }
}

/* As far as the value can go at all, and as fast as can be said. */
CASE(no_rate_is_so_high_that_it_comes_round_to_low)
{
    static const struct {
        uint32_t per_s;
        uint32_t ms;
    } rows[] = {{UINT32_MAX, 1000},        {UINT32_MAX, 1},
                {UINT32_MAX, 999},         {UINT32_MAX / 2, 1000},
                {UINT32_MAX / 2, 1999},    {UINT32_MAX / 2 + 1, 2000},
                {UINT32_MAX / 3, 2999},    {UINT32_MAX / 3 + 1, 2999},
                {UINT32_MAX / 4, 3999},    {UINT32_MAX / 4 + 1, 4000},
                {UINT32_MAX / 5 + 1, 5000}};
    for (size_t i = 0; i < sizeof(rows) / sizeof(rows[0]); i++) {
        struct bench bench;
        struct cup_checks *checks = set_up_checks(&bench, CUP_FORM_COUNTS);
        harness_at("row %zu", i);
        checks->jump_per_s = rows[i].per_s;
        hear(&bench, 0, 0);
        hear(&bench, 1, 0);
        CHECK_INT(hear(&bench, 1 + rows[i].ms, UINT16_MAX), CUP_REASON_NONE);
    }
    harness_at(NULL);
}

/* Two that agree make the first reference; one that was lost is forgotten. */
CASE(a_first_sample_needs_a_second_that_agrees)
{
    struct bench bench;
    struct cup_checks *checks = set_up_checks(&bench, CUP_FORM_COUNTS);
    checks->jump_per_s = 10;
    CHECK_INT(hear(&bench, 0, 5000), CUP_REASON_NOT_READY); /* a ghost */
    CHECK_INT(hear(&bench, 1000, 100), CUP_REASON_NOT_READY);
    CHECK_INT(hear(&bench, 2000, 110), CUP_REASON_NONE);
    CHECK_INT(hear(&bench, 3000, 5000), CUP_REASON_JUMP);
    CHECK_INT(hear(&bench, 4000, 5000), CUP_REASON_JUMP);
    CHECK_INT(hear(&bench, 5000, 120), CUP_REASON_NONE);
    CHECK_INT(hear(&bench, 65000, 4000), CUP_REASON_NOT_READY);
    CHECK_INT(hear(&bench, 66000, 4000), CUP_REASON_NONE);
    set_up_checks(&bench, CUP_FORM_COUNTS)->jump_per_s = 10;
    CHECK_INT(hear(&bench, 0, 0), CUP_REASON_NOT_READY); /* no reference yet */
}

CASE(what_does_not_move_by_one_count_is_stuck_at_its_time)
{
    struct bench bench;
    struct cup_checks *checks = set_up_checks(&bench, CUP_FORM_COUNTS);
    checks->stuck_ms = 500;
    CHECK_INT(hear(&bench, 0, 0), CUP_REASON_NONE);
    CHECK_INT(hear(&bench, 499, 0), CUP_REASON_NONE);
    CHECK_INT(hear(&bench, 500, 0), CUP_REASON_STUCK);
    CHECK_INT(hear(&bench, 501, 0), CUP_REASON_STUCK);
    CHECK_INT(hear(&bench, 600, 1), CUP_REASON_NONE);
    CHECK_INT(hear(&bench, 1099, 1), CUP_REASON_NONE);
    CHECK_INT(hear(&bench, 1100, 1), CUP_REASON_STUCK);
    /* it stays stuck, though the clock goes all the way round */
    uint32_t half = UINT32_C(1) << 31;
    bench.sensor.lost_after_ms = UINT32_MAX;
    CHECK_INT(hear(&bench, 1100 + half, 1), CUP_REASON_STUCK);
    CHECK_INT(hear(&bench, 1100, 1), CUP_REASON_STUCK);
    CHECK_INT(hear(&bench, 1700, 1), CUP_REASON_STUCK);
    checks->stuck_ms = 1;
    CHECK_INT(hear(&bench, 1701, 2), CUP_REASON_NONE);
    CHECK_INT(hear(&bench, 1701, 2), CUP_REASON_NONE);
    CHECK_INT(hear(&bench, 1702, 2), CUP_REASON_STUCK);
    checks->stuck_ms = 0;
    CHECK_INT(hear(&bench, 9000, 2), CUP_REASON_NONE);
}

/* Checks that are asked for together do not see each other's notes. */
CASE(checks_together_work_as_each_alone)
{
    struct bench bench;
    struct cup_checks *checks = set_up_checks(&bench, CUP_FORM_COUNTS);
    checks->jump_per_s = 10;
    checks->stuck_ms = 100000;
    checks->band = 5;
    checks->steady_ms = 5000;
    CHECK_INT(hear(&bench, 0, 5000), CUP_REASON_NOT_READY);
    CHECK_INT(hear(&bench, 1000, 100), CUP_REASON_NOT_READY);
    CHECK_INT(hear(&bench, 2000, 110), CUP_REASON_NONE);
    CHECK_INT(bench.memory.shown, 110);
    CHECK_INT(hear(&bench, 3000, 111), CUP_REASON_NONE);
    CHECK_INT(bench.memory.shown, 110);
}

CASE(what_is_too_near_is_not_measured)
{
    struct bench bench;
    set_up_checks(&bench, CUP_FORM_COUNTS)->near = 200;
    CHECK_INT(hear(&bench, 0, 199), CUP_REASON_NEAR);
    CHECK_INT(hear(&bench, 0, 200), CUP_REASON_NONE);
}

CASE(a_switch_has_changed_once_it_stayed_changed)
{
    struct bench bench;
    struct cup_checks *checks = set_up_checks(&bench, CUP_FORM_SWITCH);
    checks->debounce_ms = 50;
    static const struct {
        uint32_t at_ms;
        int32_t raw;
        int32_t value;
    } rows[] = {{0, 1, 1},   {10, 0, 1},  {20, 1, 1},  {30, 0, 1},
                {79, 0, 1},  {80, 0, 0},  {100, 1, 0}, {149, 1, 0},
                {150, 1, 1}, {151, 0, 1}, {200, 0, 1}, {201, 0, 0}};
    for (size_t i = 0; i < sizeof(rows) / sizeof(rows[0]); i++) {
        harness_at("row %zu", i);
        CHECK_INT(hear(&bench, rows[i].at_ms, rows[i].raw), CUP_REASON_NONE);
        CHECK_INT(bench.state.reading.value, rows[i].value);
        CHECK_INT(cup_sensor_value(&bench.sensor, &bench.state), rows[i].value);
    }
    harness_at(NULL);
    set_up_checks(&bench, CUP_FORM_SWITCH)->debounce_ms = 50;
    hear(&bench, 0, 0); /* the first is known as it is */
    CHECK_INT(hear(&bench, 1, 1), CUP_REASON_NONE);
    CHECK_INT(bench.state.reading.value, 0);
}

CASE(pulses_are_counted_between_two_answers)
{
    struct bench bench;
    set_up_checks(&bench, CUP_FORM_PULSES);
    CHECK_INT(hear(&bench, 0, 65000), CUP_REASON_NOT_READY);
    CHECK_INT(hear(&bench, 0, 65000), CUP_REASON_NOT_READY);
    CHECK_INT(hear(&bench, 1000, 65100), CUP_REASON_NONE);
    CHECK_INT(bench.state.reading.value, 100);
    CHECK_INT(hear(&bench, 2000, 64), CUP_REASON_NONE); /* round the end */
    CHECK_INT(bench.state.reading.value, 500);
    CHECK_INT(hear(&bench, 4000, 64 + 300), CUP_REASON_NONE);
    CHECK_INT(bench.state.reading.value, 150);
    CHECK_INT(hear(&bench, 4001, 64 + 301), CUP_REASON_NONE);
    CHECK_INT(bench.state.reading.value, 1000);
    CHECK_INT(hear(&bench, 4002, 64 + 301 + 65), CUP_REASON_NONE);
    CHECK_INT(bench.state.reading.value, 65000);
    CHECK_INT(hear(&bench, 4003, 64 + 301 + 65 + 66), CUP_REASON_NONE);
    CHECK_INT(bench.state.reading.value, 65535);
}

/* What is shown follows once the value stayed within its band. */
CASE(what_is_shown_moves_when_the_value_is_steady)
{
    struct bench bench;
    struct cup_checks *checks = set_up_checks(&bench, CUP_FORM_COUNTS);
    checks->band = 10;
    checks->steady_ms = 100;
    static const struct {
        uint32_t at_ms;
        int32_t raw;
        int32_t shown;
    } rows[] = {{0, 500, 500},   {10, 505, 500},   {99, 510, 500},
                {100, 510, 510}, {199, 520, 510},  {200, 520, 520},
                {210, 531, 520}, {309, 541, 520},  {310, 521, 521},
                {320, 510, 521}, {330, 499, 521},  {429, 499, 521},
                {430, 489, 489}, {70000, 700, 700}};
    for (size_t i = 0; i < sizeof(rows) / sizeof(rows[0]); i++) {
        harness_at("row %zu", i);
        CHECK_INT(hear(&bench, rows[i].at_ms, rows[i].raw), CUP_REASON_NONE);
        CHECK_INT(bench.memory.shown, rows[i].shown);
    }
    harness_at(NULL);
    checks->steady_ms = 1;
    hear(&bench, 70010, 705);
    CHECK_INT(bench.memory.shown, 705);
    checks->steady_ms = 0;
    hear(&bench, 70011, 900);
    CHECK_INT(bench.memory.shown, 900);
}

/* Readings */

CASE(a_raw_value_is_plausible_from_its_lowest_to_its_highest)
{
    struct bench bench;
    static const struct {
        int32_t raw;
        uint8_t reason;
    } rows[] = {{-31, CUP_REASON_IMPLAUSIBLE},  {-30, CUP_REASON_IMPLAUSIBLE},
                {-21, CUP_REASON_IMPLAUSIBLE},  {-20, CUP_REASON_NONE},
                {70, CUP_REASON_NONE},          {71, CUP_REASON_IMPLAUSIBLE},
                {70000, CUP_REASON_IMPLAUSIBLE}};
    set_up(&bench, CUP_FORM_COUNTS);
    bench.sensor.offset = -30;
    bench.sensor.lowest = 10;
    bench.sensor.highest = 100;
    for (size_t i = 0; i < sizeof(rows) / sizeof(rows[0]); i++) {
        harness_at("%d", (int)rows[i].raw);
        CHECK_INT(hear(&bench, 0, rows[i].raw), rows[i].reason);
    }
    harness_at(NULL);
    CHECK_INT(bench.tally.rejected[CUP_REASON_IMPLAUSIBLE - 1], 5);
    CHECK_INT(bench.state.latest, 100);
    bench.sensor.offset = INT32_MAX; /* what would come round to 1 */
    bench.sensor.lowest = 0;
    CHECK_INT(hear(&bench, 0, INT32_MIN), CUP_REASON_IMPLAUSIBLE);
    set_up(&bench, CUP_FORM_ECHO);
    CHECK_INT(hear(&bench, 0, 0), CUP_REASON_NO_ANSWER);
    CHECK_INT(hear(&bench, 0, 1), CUP_REASON_NONE);
    set_up(&bench, CUP_FORM_LOOP);
    CHECK_INT(hear(&bench, 0, CUP_LOOP_LOW_UA - 1), CUP_REASON_FAULT);
    CHECK_INT(hear(&bench, 0, CUP_LOOP_LOW_UA), CUP_REASON_NONE);
    CHECK_INT(hear(&bench, 0, CUP_LOOP_HIGH_UA), CUP_REASON_NONE);
    CHECK_INT(hear(&bench, 0, CUP_LOOP_HIGH_UA + 1), CUP_REASON_FAULT);
    set_up(&bench, CUP_FORM_COUNTS);
    CHECK_INT(hear(&bench, 0, 0), CUP_REASON_NONE);
}

CASE(rejects_are_counted_by_their_reason_and_no_further_than_they_can)
{
    struct bench bench;
    set_up(&bench, CUP_FORM_COUNTS);
    for (unsigned reason = 1; reason < 256; reason++) {
        struct cup_sample sample = {.reject = (uint8_t)reason};
        unsigned counted =
            reason <= CUP_REJECTS ? reason : (unsigned)CUP_REASON_NO_ANSWER;
        uint16_t before = bench.tally.rejected[counted - 1];
        harness_at("reason %u", reason);
        cup_sensor_hear(&bench.use, 0, sample);
        CHECK_INT(bench.tally.rejected[counted - 1], before + 1);
        CHECK_INT(bench.state.reading.reason, counted);
    }
    harness_at(NULL);
    bench.tally.rejected[0] = UINT16_MAX - 1;
    cup_sensor_hear(&bench.use, 0, (struct cup_sample){.reject = 1});
    CHECK_INT(bench.tally.rejected[0], UINT16_MAX);
    cup_sensor_hear(&bench.use, 0, (struct cup_sample){.reject = 1});
    CHECK_INT(bench.tally.rejected[0], UINT16_MAX);
}

CASE(a_reading_is_good_then_held_then_lost)
{
    struct bench bench;
    set_up(&bench, CUP_FORM_COUNTS);
    bench.sensor.window = (struct cup_window){1, 0};
    bench.sensor.lost_after_ms = 100;
    const struct cup_reading *reading = &bench.state.reading;
    CHECK_INT(reading->quality, CUP_QUALITY_HELD);
    CHECK_INT(cup_sensor_age(&bench.sensor, &bench.state, 40), 60);
    CHECK(!cup_usable(*reading));
    hear(&bench, 50, 7);
    CHECK_INT(reading->quality, CUP_QUALITY_GOOD);
    CHECK(cup_usable(*reading) && cup_fresh(*reading));
    cup_sensor_hear(&bench.use, 60, (struct cup_sample){.reject = 1});
    CHECK_INT(reading->quality, CUP_QUALITY_HELD);
    CHECK(cup_usable(*reading) && cup_fresh(*reading));
    CHECK_INT(cup_sensor_age(&bench.sensor, &bench.state, 149), 1);
    CHECK(cup_usable(*reading));
    CHECK(cup_sensor_age(&bench.sensor, &bench.state, 150) == UINT32_MAX);
    CHECK_INT(reading->quality, CUP_QUALITY_LOST);
    CHECK(!cup_usable(*reading) && !cup_fresh(*reading));
    CHECK_INT(bench.state.window.count, 0);
    CHECK(cup_sensor_age(&bench.sensor, &bench.state, 70) == UINT32_MAX);
    cup_sensor_hear(&bench.use, 160, (struct cup_sample){.reject = 1});
    CHECK_INT(reading->quality, CUP_QUALITY_LOST);
}

/* With a thermometer an echo's own law counts, not its curve. */
CASE(an_echo_is_corrected_by_the_air_where_its_warmth_is_known)
{
    struct bench bench;
    set_up(&bench, CUP_FORM_ECHO);
    bench.use.air_cdeg = 4000;
    hear(&bench, 0, 10000);
    CHECK_INT(bench.state.reading.value, 10000);
    bench.sensor.air = 0;
    hear(&bench, 0, 10000);
    CHECK_INT(bench.state.reading.value, 17777); /* 355.54 m/s */
    CHECK_INT(cup_sensor_convert(&bench.use, 5000), 8889);
}

/* What was in the window is too old once the reading would be lost. */
CASE(a_window_is_emptied_by_a_silence_of_just_that_long)
{
    for (uint32_t gap = 99; gap <= 101; gap++) {
        struct bench bench;
        set_up(&bench, CUP_FORM_COUNTS);
        bench.sensor.window = (struct cup_window){3, 1};
        bench.sensor.lost_after_ms = 100;
        harness_at("%u ms", (unsigned)gap);
        hear(&bench, 10, 4);
        hear(&bench, 10 + gap, 8);
        CHECK_INT(bench.state.window.count, gap < 100 ? 2 : 1);
        CHECK_INT(bench.state.reading.value, gap < 100 ? 6 : 8);
    }
    harness_at(NULL);
}
