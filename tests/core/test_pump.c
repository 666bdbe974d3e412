/* A pump by itself: its timers, what it shows and why it does not run. */
#include "../harness/harness.h"
#include "cuplatch/pump.h"

static const struct cup_travel slow = {.all_ms = 90};
static const struct cup_pump plain = {
    .rest_ms = 30, .longest_ms = 50, .retry_ms = 70, .retries = 1};
static const struct cup_pump endless = {.rest_ms = 30};
static const struct cup_pump brief = {.longest_ms = 1};
static const struct cup_pump vent = {.rest_ms = 30, .travel = &slow};

/* Each state with the flags it has, 10 ms after its last start or stop. */
struct row {
    const struct cup_pump *pump;
    unsigned flags;
    uint32_t boot_wait_ms;
    uint32_t left;
    enum cup_pump_show shows;
    uint8_t reason; /* NONE: not asked for */
    int32_t value;
    int32_t limit;
};

enum {
    ON = CUP_PUMP_IS_ON,
    REST = CUP_PUMP_IS_RESTING,
    BOOT = CUP_PUMP_IS_BOOTING,
    TRIP = CUP_PUMP_IS_TRIPPED,
    LOCK = CUP_PUMP_IS_LOCKED,
    WANT = CUP_PUMP_IS_WANTED
};

static const struct row rows[] = {
    {&plain, 0, 20, UINT32_MAX, CUP_PUMP_OFF, 0, 0, 0},
    {&plain, WANT, 20, UINT32_MAX, CUP_PUMP_WAITING, 0, 0, 0},
    {&plain, ON, 20, 40, CUP_PUMP_RUNNING, 0, 0, 0},
    {&plain, ON | WANT | TRIP, 20, 40, CUP_PUMP_RUNNING, 0, 0, 0},
    {&endless, ON, 20, UINT32_MAX, CUP_PUMP_RUNNING, 0, 0, 0},
    {&plain, REST, 20, 20, CUP_PUMP_RESTING, CUP_REASON_REST, 20, 30},
    {&plain, REST | WANT, 20, 20, CUP_PUMP_RESTING, CUP_REASON_REST, 20, 30},
    {&plain, BOOT, 20, 10, CUP_PUMP_RESTING, CUP_REASON_BOOT_WAIT, 10, 20},
    {&plain, BOOT | REST, 20, 10, CUP_PUMP_RESTING, CUP_REASON_REST, 20, 30},
    {&plain, BOOT | REST, 30, 20, CUP_PUMP_RESTING, CUP_REASON_BOOT_WAIT, 20,
     30},
    {&plain, BOOT | REST, 40, 20, CUP_PUMP_RESTING, CUP_REASON_BOOT_WAIT, 30,
     40},
    {&vent, BOOT | REST, 20, 20, CUP_PUMP_RESTING, CUP_REASON_BOOT_WAIT, 80,
     90},
    {&vent, BOOT, 100, 90, CUP_PUMP_RESTING, CUP_REASON_BOOT_WAIT, 90, 100},
    {&plain, TRIP, 20, 60, CUP_PUMP_TRIPPED, CUP_REASON_RETRY, 60, 70},
    {&plain, TRIP | REST, 20, 20, CUP_PUMP_TRIPPED, CUP_REASON_RETRY, 60, 70},
    {&plain, TRIP | LOCK, 20, UINT32_MAX, CUP_PUMP_TRIPPED, CUP_REASON_LOCKED,
     3, 0},
    {&plain, TRIP | LOCK | REST, 20, UINT32_MAX, CUP_PUMP_TRIPPED,
     CUP_REASON_LOCKED, 3, 0},
};

CASE(a_pump_says_what_it_waits_for_and_how_long)
{
    for (size_t i = 0; i < sizeof(rows) / sizeof(rows[0]); i++) {
        const struct row *row = &rows[i];
        struct cup_pump_state state = {
            .since_ms = 1000, .flags = (uint16_t)row->flags, .trips = 3};
        harness_at("row %zu", i);
        CHECK_INT(cup_pump_left(row->pump, &state, 1010, row->boot_wait_ms),
                  row->left);
        CHECK_INT(cup_pump_shows(&state), row->shows);
        if (row->reason == CUP_REASON_NONE)
            continue;
        struct cup_cause cause;
        CHECK_INT(
            cup_pump_cause(row->pump, &state, 1010, row->boot_wait_ms, &cause),
            row->reason);
        CHECK_INT(cause.reason, row->reason);
        CHECK_INT(cause.value, row->value);
        CHECK_INT(cause.limit, row->limit);
    }
    harness_at(NULL);
}

/* A guard's no shows after a trip and before a rest. */
CASE(a_block_shows_after_a_trip_and_before_a_rest)
{
    struct cup_pump_state state = {.no = CUP_REASON_SOURCE_LOW,
                                   .flags = REST | WANT};
    CHECK_INT(cup_pump_shows(&state), CUP_PUMP_BLOCKED);
    CHECK(!cup_pump_ready(&state));
    cup_pump_set(&state, TRIP, true);
    CHECK_INT(cup_pump_shows(&state), CUP_PUMP_TRIPPED);
    cup_pump_set(&state, ON, true);
    CHECK_INT(cup_pump_shows(&state), CUP_PUMP_RUNNING);
}

CASE(the_longest_run_is_reached_to_the_millisecond)
{
    struct cup_pump_state state = {.since_ms = 1000, .flags = ON};
    CHECK(!cup_pump_ran_longest(&plain, &state, 1049));
    CHECK(cup_pump_ran_longest(&plain, &state, 1050));
    CHECK(cup_pump_ran_longest(&plain, &state, 1051));
    CHECK(!cup_pump_ran_longest(&brief, &state, 1000));
    CHECK(cup_pump_ran_longest(&brief, &state, 1001));
    CHECK(!cup_pump_ran_longest(&endless, &state, 999));
    CHECK_INT(cup_pump_left(&brief, &state, 1000, 0), 1);
    CHECK_INT(cup_pump_left(&brief, &state, 1001, 0), 0);
}

/* Each timer ends by itself, and a lock ends by none. */
CASE(what_is_over_is_over_and_a_lock_is_not)
{
    struct cup_pump_state state;
    for (uint32_t t = 0; t < 80; t++) {
        state = (struct cup_pump_state){.flags = REST | BOOT | TRIP};
        harness_at("%u ms", (unsigned)t);
        cup_pump_age(&plain, &state, t, 20);
        CHECK_INT(cup_pump_is(&state, BOOT), t < 20);
        CHECK_INT(cup_pump_is(&state, REST), t < 30);
        CHECK_INT(cup_pump_is(&state, TRIP), t < 70);
        CHECK_INT(cup_pump_ready(&state), t >= 70);
    }
    harness_at(NULL);
    state = (struct cup_pump_state){.flags = REST | TRIP | LOCK};
    cup_pump_age(&plain, &state, 1000, 20);
    CHECK_INT(state.flags, TRIP | LOCK);
    state = (struct cup_pump_state){.flags = ON | REST};
    cup_pump_age(&plain, &state, 1000, 20); /* it runs: nothing to end */
    CHECK_INT(state.flags, ON | REST);
}

CASE(hand_runs_out_and_goes_back_to_where_the_switch_was)
{
    struct cup_pump_state state = {.mode = CUP_MODE_OFF};
    cup_pump_switch(&state, CUP_MODE_HAND, 100, 40);
    CHECK_INT(cup_pump_left(&plain, &state, 110, 0), 30);
    cup_pump_switch(&state, CUP_MODE_HAND, 120, 40); /* again: still from off */
    cup_pump_age(&plain, &state, 159, 0);
    CHECK_INT(state.mode, CUP_MODE_HAND);
    cup_pump_age(&plain, &state, 160, 0);
    CHECK_INT(state.mode, CUP_MODE_OFF);
    CHECK_INT(state.hand_for_ms, 40);
    cup_pump_switch(&state, CUP_MODE_AUTO, 200, 40);
    CHECK_INT(state.hand_for_ms, 0);
    cup_pump_switch(&state, CUP_MODE_HAND, 200, 1);
    cup_pump_age(&plain, &state, 201, 0);
    CHECK_INT(state.mode, CUP_MODE_AUTO);
    CHECK(cup_pump_is(&state, CUP_PUMP_IS_STEERED));
    state = (struct cup_pump_state){.since_ms = 100, .flags = ON};
    cup_pump_switch(&state, CUP_MODE_HAND, 105, 10);
    CHECK_INT(cup_pump_left(&plain, &state, 110, 0), 5);
    cup_pump_switch(&state, CUP_MODE_HAND, 105, 100);
    CHECK_INT(cup_pump_left(&plain, &state, 110, 0), 40);
}

CASE(tries_run_out_one_by_one)
{
    struct cup_pump_state state = {.trips = 0};
    CHECK_INT(cup_pump_trip(&plain, &state), CUP_KIND_TRIP);
    CHECK_INT(state.flags, TRIP);
    CHECK_INT(cup_pump_trip(&plain, &state), CUP_KIND_LOCK);
    CHECK_INT(state.flags, TRIP | LOCK);
    CHECK_INT(state.trips, 2);
    cup_pump_clear(&state);
    CHECK_INT(state.flags, 0);
    CHECK_INT(state.trips, 0);
    CHECK_INT(cup_pump_trip(&endless, &state), CUP_KIND_LOCK);
}

/* Travel: where an output is on its way, by the time it has moved. */
static const struct cup_travel ten_s = {.all_ms = 10000};
static const struct cup_travel ajar = {.all_ms = 10000, .safe_pct100 = 2000};
static const struct cup_travel below = {.all_ms = 10000, .safe_pct100 = 4999};
static const struct cup_travel middle = {.all_ms = 10000, .safe_pct100 = 5000};
static const struct cup_travel wide = {.all_ms = 10000, .safe_pct100 = 10000};
static const struct cup_travel tick = {.all_ms = 1};
static const struct cup_travel at_once = {.all_ms = 0, .safe_pct100 = 300};

CASE(at_boot_an_output_travels_from_the_far_end)
{
    static const struct {
        const struct cup_travel *travel;
        int from;
        int after_3s;
        int way_ms;
    } kinds[] = {{&ten_s, 10000, 7000, 10000}, {&ajar, 10000, 7000, 8000},
                 {&below, 10000, 7000, 5001},  {&middle, 0, 3000, 5000},
                 {&wide, 0, 3000, 10000},      {&tick, 10000, 0, 1},
                 {&at_once, 10000, 300, 0}};
    for (size_t i = 0; i < sizeof(kinds) / sizeof(kinds[0]); i++) {
        const struct cup_travel *travel = kinds[i].travel;
        struct cup_travel_state state;
        harness_at("kind %zu", i);
        cup_travel_boot(travel, &state, 50);
        CHECK_INT(state.from_pct100, kinds[i].from);
        CHECK_INT(state.is_moving, travel->all_ms > 0);
        CHECK_INT(cup_travel_place(travel, &state, 3050, false),
                  kinds[i].after_3s);
        CHECK_INT(cup_travel_left(travel, &state, 50, false), kinds[i].way_ms);
        CHECK_INT(cup_travel_place(travel, &state, 50 + 10000, false),
                  travel->safe_pct100);
        CHECK_INT(cup_travel_left(travel, &state, 50 + 10000, false), 0);
        CHECK_INT(state.is_moving, 0);
        CHECK_INT(cup_travel_place(travel, &state, 51, false),
                  travel->safe_pct100);
    }
    harness_at(NULL);
}

CASE(an_output_that_turns_on_its_way_goes_on_from_where_it_is)
{
    struct cup_travel_state state = {.since_ms = 0};
    cup_travel_reverse(&ajar, &state, 1000, true); /* from 20 % */
    CHECK_INT(state.from_pct100, 2000);
    CHECK_INT(state.is_moving, 1);
    CHECK_INT(cup_travel_place(&ajar, &state, 1000, true), 2000);
    CHECK_INT(cup_travel_place(&ajar, &state, 1001, true), 2001);
    CHECK_INT(cup_travel_place(&ajar, &state, 4000, true), 5000);
    CHECK_INT(cup_travel_left(&ajar, &state, 4000, true), 5000);
    cup_travel_reverse(&ajar, &state, 4000, false); /* back from 50 % */
    CHECK_INT(state.from_pct100, 5000);
    CHECK_INT(cup_travel_place(&ajar, &state, 4500, false), 4500);
    CHECK_INT(cup_travel_left(&ajar, &state, 4500, false), 2500);
    CHECK_INT(cup_travel_place(&ajar, &state, 6999, false), 2001);
    CHECK_INT(cup_travel_place(&ajar, &state, 7000, false), 2000);
    CHECK_INT(cup_travel_place(&ajar, &state, 7001, false), 2000);
    CHECK_INT(cup_travel_left(&ajar, &state, 6999, false), 1);
    CHECK_INT(state.is_moving, 1);
    CHECK_INT(cup_travel_left(&ajar, &state, 7000, false), 0);
    CHECK_INT(state.is_moving, 0);
    cup_travel_reverse(&tick, &state, 8000, true);
    CHECK_INT(state.is_moving, 1);
    cup_travel_reverse(&at_once, &state, 8000, true);
    CHECK_INT(state.is_moving, 0);
    CHECK_INT(cup_travel_place(&at_once, &state, 8000, true), 10000);
}
