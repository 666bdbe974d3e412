/* What decides, by itself: latches, days, doses and turns, to the last
 * millisecond. */
#include "../harness/edge.h"
#include "../harness/harness.h"
#include "cuplatch/day.h"
#include "cuplatch/dose.h"
#include "cuplatch/duty.h"
#include "cuplatch/turn.h"

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
    CHECK_INT(cup_turn_owed(&state, 100 + CUP_TIME_BACK), 50);
    CHECK_INT(cup_turn_owed(&state, 99 + CUP_TIME_BACK), 0);
}

/* Times of the clock, minute by minute against a walk from one look to the
 * next. One that was set back goes on where it was; one that jumps ahead by
 * more than half a day strikes nothing, unless the power was off meanwhile. */
#define SOME_DAY (UINT32_C(20000) * 1440)

static int strikes_between(const uint16_t *at, int count, int from, int gone)
{
    int all = 0;
    for (int i = 1; i <= gone; i++)
        for (int k = 0; k < count; k++)
            all += (from + i) % 1440 == at[k];
    return all;
}

static bool asks_at(const struct cup_turn *turn, struct cup_turn_state *state,
                    uint32_t clock_min)
{
    struct cup_turn_seen seen = {.clock_min = clock_min};
    CHECK(cup_turn_step(turn, state, 7, &seen) ==
          (cup_turn_asks(state) ? UINT32_MAX : CUP_TIME_MAX_MS - 7));
    return cup_turn_asks(state);
}

CASE(times_of_the_clock_strike_once_and_only_when_they_come)
{
    static const uint16_t times[] = {0, 736, 1439};
    const uint16_t *at = (const uint16_t *)edge_copy(times, sizeof(times));
    const struct cup_turn turn = {
        .run_ms = 5, .at = at, .at_count = 3, .day = CUP_NONE};
    for (int from = 0; from < 1440; from += 1 + from % 7)
        for (int gone = 0; gone < 1440 && !harness_failed(); gone++) {
            struct cup_turn_state state = {.flags = 0};
            uint32_t first = SOME_DAY + (uint32_t)from;
            cup_turn_boot(&turn, &state, 0);
            harness_at("from minute %d for %d", from, gone);
            CHECK(!asks_at(&turn, &state, first));
            CHECK_INT(asks_at(&turn, &state, first + (uint32_t)gone),
                      gone <= 720 && strikes_between(at, 3, from, gone) > 0);
        }
    harness_at(NULL);
}

/* The power was off for up to some days: the last that came is due, the others
 * are missed. */
CASE(what_the_clock_struck_while_the_power_was_off_is_due_or_missed)
{
    static const uint16_t times[] = {30, 736};
    const struct cup_turn turn = {
        .run_ms = 5, .at = times, .at_count = 2, .day = CUP_NONE};
    for (int from = 0; from < 1440; from += 29)
        for (int gone = 0; gone < 5000 && !harness_failed(); gone += 13) {
            struct cup_turn_state state = {.flags = 0};
            uint32_t first = SOME_DAY + (uint32_t)from;
            int all = strikes_between(times, 2, from, gone);
            cup_turn_boot(&turn, &state, 0);
            harness_at("from minute %d for %d", from, gone);
            CHECK(!asks_at(&turn, &state, first));
            state.flags |= CUP_TURN_WAS_OFF;
            CHECK_INT(asks_at(&turn, &state, first + (uint32_t)gone), all > 0);
            CHECK_INT(state.missed, all > 0 ? all - 1 : 0);
        }
    harness_at(NULL);
}

CASE(a_clock_that_is_lost_or_set_back_strikes_nothing_twice)
{
    for (uint16_t minute = 0; minute < 1440; minute++) {
        const uint16_t at[] = {minute};
        const struct cup_turn turn = {
            .run_ms = 5, .at = at, .at_count = 1, .day = CUP_NONE};
        struct cup_turn_state state = {.flags = 0};
        const uint32_t then = SOME_DAY + minute;
        harness_at("minute %d", minute);
        cup_turn_boot(&turn, &state, 0);
        CHECK(!asks_at(&turn, &state, 0));
        CHECK(!asks_at(&turn, &state, then));
        CHECK(!asks_at(&turn, &state, 0));
        CHECK(!asks_at(&turn, &state, then));
        CHECK(!asks_at(&turn, &state, then - 1));
        CHECK(!asks_at(&turn, &state, then)); /* a minute back: not again */
        CHECK(!asks_at(&turn, &state, then - 700));
        CHECK(!asks_at(&turn, &state, then)); /* half a day: nor then */
        CHECK(!asks_at(&turn, &state, then + 700));
        CHECK(!asks_at(&turn, &state, then + 1300));
        CHECK(asks_at(&turn, &state, then + 1440));
        state.flags = CUP_TURN_EVER;
        CHECK(!asks_at(&turn, &state, then - 5000)); /* days: it begins anew */
        CHECK(asks_at(&turn, &state, then - 5000 + 720) ||
              asks_at(&turn, &state, then - 5000 + 1440));
    }
    harness_at(NULL);
}

/* What waits is missed once, after so long, and comes no more; of a time of the
 * clock it is missed with the next at the latest. */
CASE(what_waits_too_long_is_missed_once)
{
    static const uint16_t times[] = {30};
    struct cup_turn turn = {
        .run_ms = 50, .every_ms = 1000, .until = CUP_NONE, .day = CUP_NONE};
    struct cup_turn_state state = {.flags = 0};
    struct cup_turn_seen seen = {.is_day = true};
    cup_turn_boot(&turn, &state, 0);
    CHECK_INT(cup_turn_step(&turn, &state, 1000, &seen), 500);
    CHECK_INT(cup_turn_step(&turn, &state, 1499, &seen), 1);
    CHECK_INT(state.missed, 0);
    cup_turn_step(&turn, &state, 1500, &seen);
    CHECK_INT(state.missed, 1);
    CHECK(!cup_turn_asks(&state)); /* the next is due when it would have been */
    CHECK_INT(cup_turn_step(&turn, &state, 1600, &seen), 400);
    CHECK_INT(cup_turn_step(&turn, &state, 1999, &seen), 1);
    CHECK(!cup_turn_asks(&state));
    CHECK_INT(cup_turn_step(&turn, &state, 2000, &seen), 500);
    CHECK(cup_turn_asks(&state));
    CHECK_INT(state.missed, 1);
    /* so long without a day that it is not known any more when */
    cup_turn_step(&turn, &state, 2500, &seen);
    seen.is_day = false;
    for (uint32_t ms = 2500; ms < UINT32_MAX - 100000000u; ms += 100000000u)
        cup_turn_step(&turn, &state, ms, &seen);
    seen.is_day = true;
    cup_turn_step(&turn, &state, UINT32_MAX - 50000000u, &seen);
    CHECK(cup_turn_asks(&state));
    CHECK_INT(state.missed, 2);
    /* a time of the clock */
    turn = (struct cup_turn){.run_ms = 50,
                             .owed_ms = 400,
                             .at = times,
                             .at_count = 1,
                             .until = CUP_NONE,
                             .day = CUP_NONE};
    state = (struct cup_turn_state){.flags = 0};
    cup_turn_boot(&turn, &state, 0);
    seen = (struct cup_turn_seen){.clock_min = SOME_DAY};
    cup_turn_step(&turn, &state, 0, &seen);
    seen.clock_min = SOME_DAY + 30;
    CHECK_INT(cup_turn_step(&turn, &state, 100, &seen), 400);
    CHECK(cup_turn_asks(&state));
    cup_turn_step(&turn, &state, 500, &seen);
    CHECK(!cup_turn_asks(&state));
    CHECK_INT(state.missed, 1);
    turn.owed_ms = 0;
    state.missed = 0;
    for (uint32_t day = 1; day < 4; day++) {
        seen.clock_min = SOME_DAY + day * 1440 - 500;
        cup_turn_step(&turn, &state, 600, &seen);
        seen.clock_min = SOME_DAY + day * 1440 + 30;
        cup_turn_step(&turn, &state, 700, &seen);
        CHECK(cup_turn_asks(&state));
        CHECK_INT(state.missed, day - 1);
    }
}

/* What a person keeps off is not owed: neither what comes, nor what waits, nor
 * the rest of what was begun. How far apart two may be counts from the last. */
CASE(what_is_kept_off_is_not_owed)
{
    const struct cup_turn turn = {.run_ms = 50,
                                  .every_ms = 1000,
                                  .apart_ms = 2500,
                                  .until = CUP_NONE,
                                  .day = CUP_NONE};
    struct cup_turn_state state = {.flags = 0};
    const struct cup_turn_seen free = {.is_day = true};
    const struct cup_turn_seen off = {.is_day = true, .is_off = true};
    cup_turn_boot(&turn, &state, 0);
    CHECK_INT(cup_turn_step(&turn, &state, 900, &off), 100);
    CHECK_INT(cup_turn_step(&turn, &state, 1000, &off), 1000);
    CHECK_INT(cup_turn_step(&turn, &state, 1900, &free), 100);
    CHECK(!cup_turn_asks(&state));
    cup_turn_step(&turn, &state, 2000, &free);
    CHECK(cup_turn_asks(&state));
    CHECK_INT(cup_turn_step(&turn, &state, 2100, &off), 900); /* it waited */
    CHECK(!cup_turn_asks(&state));
    CHECK_INT(cup_turn_step(&turn, &state, 2200, &free), 300);
    cup_turn_step(&turn, &state, 2500, &free); /* too far apart */
    CHECK(cup_turn_asks(&state));
    cup_turn_begin(&state, 2500);
    cup_turn_step(&turn, &state, 2510,
                  &(struct cup_turn_seen){.is_day = true,
                                          .running = true,
                                          .run_since_ms = 2500,
                                          .run_until_ms = 2510});
    CHECK_INT(state.left_ms, 40);
    cup_turn_step(&turn, &state, 2520, &off);
    CHECK_INT(cup_turn_step(&turn, &state, 2530, &free), 970);
    CHECK(!cup_turn_asks(&state));
    CHECK_INT(state.missed, 0);
}

/* The next by its interval, by day; by what it may be apart, always. */
CASE(the_next_turn_is_reckoned_to_the_millisecond)
{
    static const struct {
        uint32_t every_ms;
        uint32_t apart_ms;
        bool is_day;
        uint32_t left;
    } rows[] = {{0, 0, true, UINT32_MAX},  {1, 0, true, 0},
                {1, 0, false, UINT32_MAX}, {0, 1, false, 0},
                {40, 0, true, 30},         {40, 20, true, 10},
                {20, 40, true, 10},        {20, 40, false, 30},
                {10, 0, true, 0},          {11, 0, true, 1}};
    for (size_t i = 0; i < sizeof(rows) / sizeof(rows[0]); i++) {
        struct cup_turn turn = {.every_ms = rows[i].every_ms,
                                .apart_ms = rows[i].apart_ms};
        struct cup_turn_state state = {.flags = 0};
        harness_at("row %zu", i);
        cup_turn_boot(&turn, &state, 100);
        CHECK_INT(cup_turn_left(&turn, &state, 110, rows[i].is_day),
                  rows[i].left);
        CHECK_INT(cup_turn_age(&state, 110), 10);
        turn.dawn = true; /* by day at once, when there was none before */
        state.flags = 0;
        cup_turn_boot(&turn, &state, 100);
        CHECK_INT(cup_turn_left(&turn, &state, 100, true), turn.every_ms > 0 ? 0
                                                           : turn.apart_ms > 0
                                                               ? turn.apart_ms
                                                               : UINT32_MAX);
        state.flags = CUP_TURN_LONG_AGO | CUP_TURN_EVER;
        CHECK_INT(cup_turn_age(&state, 110), CUP_TIME_MAX_MS);
        CHECK_INT(cup_turn_left(&turn, &state, 110, true),
                  turn.every_ms + turn.apart_ms > 0 ? 0 : UINT32_MAX);
    }
    harness_at(NULL);
}

/* The rest of what a guard cut short moves nothing; what comes due meanwhile it
 * is given instead of. */
CASE(the_rest_of_a_turn_does_not_put_off_the_next)
{
    static const struct cup_turn turn = {
        .run_ms = 50, .every_ms = 1000, .day = CUP_NONE, .dawn = true};
    struct cup_turn_state state = {.flags = CUP_TURN_OWED | CUP_TURN_BEGUN |
                                            CUP_TURN_EVER,
                                   .started_ms = 100,
                                   .left_ms = 20};
    struct cup_turn_seen seen = {.clock_min = 0,
                                 .is_day = true,
                                 .running = true,
                                 .run_since_ms = 490,
                                 .run_until_ms = 510};
    cup_turn_begin(&state, 490);
    cup_turn_step(&turn, &state, 510, &seen);
    CHECK_INT(state.started_ms, 100);
    CHECK(!cup_turn_asks(&state));
    seen.running = false;
    seen.is_dawn = true; /* sooner than half of every: it waits */
    cup_turn_step(&turn, &state, 550, &seen);
    CHECK(!cup_turn_asks(&state));
    seen.is_dawn = false;
    CHECK_INT(cup_turn_step(&turn, &state, 599, &seen), 1);
    CHECK(!cup_turn_asks(&state));
    cup_turn_step(&turn, &state, 600, &seen);
    CHECK(cup_turn_asks(&state));
    /* the next, while the rest waits: a whole one */
    state.flags = CUP_TURN_OWED | CUP_TURN_BEGUN | CUP_TURN_EVER;
    state.left_ms = 20;
    CHECK_INT(cup_turn_step(&turn, &state, 1000, &seen), 100);
    CHECK_INT(state.left_ms, 20);
    cup_turn_step(&turn, &state, 1100, &seen);
    CHECK_INT(state.left_ms, 50);
    /* and while it is given: it counts from here */
    state.flags = CUP_TURN_OWED | CUP_TURN_BEGUN | CUP_TURN_EVER;
    state.left_ms = 20;
    cup_turn_begin(&state, 1090);
    seen = (struct cup_turn_seen){.is_day = true,
                                  .running = true,
                                  .run_since_ms = 1090,
                                  .run_until_ms = 1100};
    cup_turn_step(&turn, &state, 1100, &seen);
    CHECK_INT(state.left_ms, 10);
    seen.run_until_ms = 1110;
    cup_turn_step(&turn, &state, 1110, &seen);
    CHECK(!cup_turn_asks(&state));
    CHECK_INT(state.started_ms, 1100);
}

/* A turn from due to given, with a break in the middle. */
CASE(a_turn_counts_what_was_given_and_no_more)
{
    static const struct cup_turn turn = {
        .run_ms = 50, .every_ms = 1000, .day = CUP_NONE};
    struct cup_turn_state state = {.flags = 0};
    struct cup_turn_seen seen = {.is_day = true};
    cup_turn_boot(&turn, &state, 0);
    seen.run_until_ms = 999;
    CHECK_INT(cup_turn_step(&turn, &state, 999, &seen), 1);
    CHECK(!cup_turn_asks(&state));
    seen.run_until_ms = 1000;
    CHECK_INT(cup_turn_step(&turn, &state, 1000, &seen), 500);
    CHECK(cup_turn_asks(&state));
    seen = (struct cup_turn_seen){.is_day = true,
                                  .running = true,
                                  .run_since_ms = 1010,
                                  .run_until_ms = 1015};
    CHECK_INT(cup_turn_step(&turn, &state, 1015, &seen), 45);
    CHECK_INT(state.started_ms, 1010);
    seen.running = false; /* it stopped at 1020, and was seen later */
    seen.run_since_ms = seen.run_until_ms = 1020;
    CHECK_INT(cup_turn_step(&turn, &state, 1030, &seen), 980);
    CHECK_INT(state.left_ms, 40);
    seen.run_since_ms = seen.run_until_ms = 1040;
    cup_turn_step(&turn, &state, 1040, &seen);
    CHECK_INT(state.left_ms, 40);
    seen = (struct cup_turn_seen){.is_day = true,
                                  .running = true,
                                  .run_since_ms = 1100,
                                  .run_until_ms = 1139};
    CHECK_INT(cup_turn_step(&turn, &state, 1139, &seen), 1);
    CHECK_INT(state.started_ms, 1010);
    seen.run_until_ms = 1140;
    CHECK_INT(cup_turn_step(&turn, &state, 1140, &seen), 870);
    CHECK(!cup_turn_asks(&state));
    /* due again in the same run: it begins with the next look */
    seen.run_until_ms = 2010;
    CHECK_INT(cup_turn_step(&turn, &state, 2010, &seen), 0);
    CHECK(cup_turn_asks(&state));
    seen.run_until_ms = 2011;
    CHECK_INT(cup_turn_step(&turn, &state, 2011, &seen), 49);
    /* a run that would end before it began gives nothing */
    seen.run_until_ms = 2011 + CUP_TIME_BACK;
    cup_turn_step(&turn, &state, 2011, &seen);
    CHECK_INT(state.left_ms, 49);
}

/* A light that is lost while it crosses: what it last said does not count. */
CASE(a_lost_light_changes_nothing)
{
    static const struct cup_day day = {.latch = {6000, 4000, 100}, .light = 0};
    struct cup_latch_state state = {.on = false};
    cup_day_step(&day, &state, 0, true, 9000, true, CUP_NO_MINUTE);
    for (uint32_t t = 10; t < 300; t += 10) {
        harness_at("%u ms", (unsigned)t);
        CHECK(cup_day_step(&day, &state, t, false, 9000, true, CUP_NO_MINUTE) ==
              UINT32_MAX);
        CHECK(!(cup_day_flags(&state) & CUP_DAY_IS_DAY));
    }
    harness_at(NULL);
}

/* A crossing counts after its time and from its second sample on; so does the
 * next one, the other way. */
CASE(a_latch_confirms_each_crossing_afresh)
{
    static const struct cup_latch brief = {.start = 10, .stop = 20, 1};
    static const struct cup_latch slow = {.start = 10, .stop = 20, 100};
    struct cup_latch_state state = {.on = false};
    CHECK(!cup_latch_step(&brief, &state, 0, 9, true));
    CHECK(!cup_latch_step(&brief, &state, 0, 9, true));
    CHECK(cup_latch_step(&brief, &state, 1, 9, true));
    state = (struct cup_latch_state){.on = false};
    CHECK(!cup_latch_step(&slow, &state, 0, 9, true));
    CHECK(!cup_latch_step(&slow, &state, 99, 9, true));
    CHECK(!cup_latch_step(&slow, &state, 99, 9, false));
    CHECK_INT(cup_latch_left(&slow, &state, 99), 1);
    CHECK(cup_latch_step(&slow, &state, 100, 9, false));
    CHECK(cup_latch_left(&slow, &state, 100) == UINT32_MAX);
    CHECK(cup_latch_step(&slow, &state, 300, 21, true));
    CHECK(cup_latch_step(&slow, &state, 399, 21, true));
    CHECK(!cup_latch_step(&slow, &state, 400, 21, true));
    CHECK(!cup_latch_step(&slow, &state, 500, 9, true));
    CHECK(!cup_latch_step(&slow, &state, 700, 9, false)); /* one sample */
    CHECK(cup_latch_step(&slow, &state, 701, 9, true));
}

CASE(a_latch_says_why_to_the_mark)
{
    static const struct cup_latch up = {.start = 10, .stop = 20};
    static const struct cup_latch down = {.start = 20, .stop = 10};
    static const struct {
        const struct cup_latch *latch;
        bool on;
        int32_t value;
        int32_t limit;
        uint8_t reason;
    } rows[] = {{&up, true, 9, 10, CUP_REASON_BELOW_START},
                {&up, true, 10, 20, CUP_REASON_UNDER_WAY},
                {&up, false, 21, 20, CUP_REASON_ABOVE_STOP},
                {&up, false, 20, 10, CUP_REASON_NO_NEED},
                {&down, true, 21, 20, CUP_REASON_ABOVE_START},
                {&down, true, 20, 10, CUP_REASON_UNDER_WAY},
                {&down, false, 9, 10, CUP_REASON_BELOW_STOP},
                {&down, false, 10, 20, CUP_REASON_NO_NEED}};
    for (size_t i = 0; i < sizeof(rows) / sizeof(rows[0]); i++) {
        struct cup_latch_state state = {.on = rows[i].on};
        harness_at("row %zu", i);
        struct cup_cause cause;
        CHECK_INT(cup_latch_cause(rows[i].latch, &state, rows[i].value,
                                  rows[i].value, &cause),
                  rows[i].reason);
        CHECK_INT(cause.reason, rows[i].reason);
        CHECK_INT(cause.value, rows[i].value);
        CHECK_INT(cause.limit, rows[i].limit);
    }
    harness_at(NULL);
}

/* It starts by what is shown and stops by its reading: when it changes sides
 * there may be something to see at once. */
CASE(a_duty_that_switched_looks_again_at_once)
{
    static const struct cup_latch latch = {.start = 10, .stop = 20};
    static const struct {
        bool usable;
        cup_value value;
        cup_value shown;
        uint32_t left_ms;
        bool on;
    } steps[] = {{true, 15, 15, UINT32_MAX, false},
                 {true, 15, 9, 0, true},
                 {true, 21, 9, 0, false},
                 {true, 21, 9, 0, true},
                 {false, 21, 9, UINT32_MAX, false}};
    struct cup_latch_state state = {.on = false};
    for (size_t i = 0; i < sizeof(steps) / sizeof(steps[0]); i++) {
        CHECK_INT(cup_duty_step(&latch, &state, 0, steps[i].usable,
                                steps[i].value, steps[i].shown, true),
                  steps[i].left_ms);
        CHECK_INT(state.on, steps[i].on);
    }
}

static const struct cup_latch bed = {.start = 40, .stop = 60};

/* A dose given to its end, and soaked in, with so much gained. */
static uint32_t give_dose(const struct cup_dose *dose,
                          struct cup_dose_state *state,
                          struct cup_latch_state *latch, uint32_t from_ms,
                          int32_t gained)
{
    cup_dose_begin(state, latch, from_ms, 35);
    cup_dose_step(dose, state, latch, from_ms + 10, true);
    cup_dose_step(dose, state, latch, from_ms + 11, false);
    cup_dose_step(dose, state, latch, from_ms + 31, false);
    cup_dose_judge(dose, state, &bed, latch, 35 + gained);
    cup_dose_limit(dose, state, latch);
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
        t = give_dose(&dose, &state, &latch, t, 0);
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
    uint32_t t = give_dose(&dose, &state, &latch, 0, 1);
    CHECK_INT(latch.own[CUP_DOSE_PHASE], CUP_DOSE_READY);
    give_dose(&dose, &state, &latch, t, 1);
    CHECK_INT(latch.own[CUP_DOSE_PHASE], CUP_DOSE_OUT);
}

/* A tenth of the way from start to stop, here two, is an answer. */
CASE(doses_that_are_answered_run_out_at_four_times_the_limit)
{
    static const struct cup_dose dose = {
        .dose_ms = 10, .soak_ms = 20, .doses = 2};
    struct cup_dose_state state = {.since_ms = 0};
    struct cup_latch_state latch = {.on = true};
    struct cup_cause cause = {.reason = CUP_REASON_NONE};
    uint32_t t = 0;
    for (int i = 1; i <= 8; i++) {
        harness_at("dose %d", i);
        CHECK_INT(latch.own[CUP_DOSE_PHASE], CUP_DOSE_READY);
        t = give_dose(&dose, &state, &latch, t, 2);
        CHECK_INT(state.given, i);
        CHECK_INT(latch.own[CUP_DOSE_COUNT], 0);
    }
    harness_at(NULL);
    CHECK_INT(latch.own[CUP_DOSE_PHASE], CUP_DOSE_OUT);
    CHECK_INT(cup_dose_cause(&dose, &state, &latch, t, &cause),
              CUP_REASON_DOSES_OUT);
    CHECK_INT(cause.value, 8);
}

CASE(a_limit_of_one_dose_is_one_dose)
{
    static const struct cup_dose dose = {
        .dose_ms = 10, .soak_ms = 20, .doses = 1};
    struct cup_dose_state state = {.since_ms = 0};
    struct cup_latch_state latch = {.on = true};
    give_dose(&dose, &state, &latch, 0, 0);
    CHECK_INT(latch.own[CUP_DOSE_PHASE], CUP_DOSE_OUT);
}

/* At its end a dose is told with its own length; from then on with what is
 * left of its soak. */
CASE(a_soak_is_told_with_what_is_left_of_it)
{
    static const struct cup_dose dose = {
        .dose_ms = 10, .soak_ms = 20, .doses = 2};
    struct cup_dose_state state = {.since_ms = 100};
    struct cup_latch_state latch = {.on = true,
                                    .own[CUP_DOSE_PHASE] = CUP_DOSE_SOAKS};
    struct cup_cause cause = {.reason = CUP_REASON_NONE};
    for (uint32_t gone = 0; gone < 25; gone++) {
        harness_at("after %u ms", (unsigned)gone);
        CHECK_INT(cup_dose_cause(&dose, &state, &latch, 100 + gone, &cause),
                  gone == 0 ? CUP_REASON_DOSE_GIVEN : CUP_REASON_SOAKS);
        CHECK_INT(cause.limit, gone == 0 ? 10 : 20);
        CHECK_INT(cause.value, gone < 20 ? 20 - gone : 0);
    }
    harness_at(NULL);
    latch.own[CUP_DOSE_PHASE] = CUP_DOSE_READY;
    CHECK_INT(cup_dose_cause(&dose, &state, &latch, 100, &cause),
              CUP_REASON_NONE);
}

/* Only water past the stop mark ends a session, and not by one sample alone; a
 * reading that was lost, or hours that are over, do not: the doses given so far
 * still count. */
CASE(doses_are_forgotten_only_past_the_stop_mark)
{
    static const struct cup_dose dose = {
        .dose_ms = 10, .soak_ms = 20, .doses = 2};
    struct cup_dose_state state = {.since_ms = 0};
    struct cup_latch_state latch = {.on = true};
    uint32_t t = give_dose(&dose, &state, &latch, 0, 0);
    cup_latch_release(&latch);
    cup_dose_step(&dose, &state, &latch, t, false);
    CHECK_INT(latch.own[CUP_DOSE_COUNT], 1);
    latch.on = true;
    for (int i = 0; i < 3; i++)
        cup_dose_see(&state, &latch, true);
    CHECK_INT(latch.own[CUP_DOSE_COUNT], 1);
    latch.on = false;
    cup_dose_see(&state, &latch, false);
    cup_dose_see(&state, &latch, true);
    cup_dose_step(&dose, &state, &latch, t, false);
    CHECK_INT(latch.own[CUP_DOSE_COUNT], 1);
    cup_dose_see(&state, &latch, true);
    CHECK_INT(latch.own[CUP_DOSE_COUNT], 0);
    CHECK_INT(state.given, 0);
}
