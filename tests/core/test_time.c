/* Passes that come late, stand still, or in time that goes backwards: the
 * site is driven by hand, pass by pass. */
#include <stdlib.h>
#include <string.h>

#include "../harness/harness.h"
#include "cuplatch/site.h"

/* 0 counts are 100 %, 1000 are none. */
static CUP_FLASH struct cup_knot knots[2] = {{.y = 10000, .x = 0, .whole = 10},
                                             {.y = 0, .x = 1000}};
static CUP_FLASH struct cup_curve curve = {knots, 2, true};
static CUP_FLASH struct cup_sensor soil = {.curve = &curve,
                                           .every_ms = 30000,
                                           .lost_after_ms = 300000,
                                           .highest = 1000,
                                           .window = {3, 1},
                                           .unit = CUP_UNIT_PERCENT,
                                           CUP_SENSOR_ALONE};
static CUP_FLASH struct cup_pump pump = {.rest_ms = 5000};
static CUP_FLASH struct cup_duty bed = {.latch = {3000, 6000, 0}};
static CUP_FLASH struct cup_plan plan = {.layout = CUP_LAYOUT,
                                         .scan_ms = 1000,
                                         .late_ms = 10000,
                                         .cells = 6,
                                         .sensors = &soil,
                                         .sensor_count = 1,
                                         .pumps = &pump,
                                         .pump_count = 1,
                                         .duties = &bed,
                                         .duty_count = 1};

struct run {
    uint32_t state[64];
    struct cup_site site;
    struct cup_event last;
    unsigned events;
};

static void take(void *self, const struct cup_event *event)
{
    struct run *run = self;
    run->last = *event;
    run->events++;
}

static void begin(struct run *run)
{
    memset(run, 0, sizeof(*run));
    CHECK_INT(cup_site_bind(&run->site, &plan, run->state, sizeof(run->state)),
              CUP_OK);
}

/* A pass at a time, hearing `raw` unless it is negative. */
static bool pass(struct run *run, uint32_t now_ms, int32_t raw)
{
    struct cup_sink sink = {take, run};
    if (raw >= 0)
        cup_site_hear(&run->site, 0, now_ms, (struct cup_sample){.raw = raw});
    cup_site_decide(&run->site, now_ms, &sink);
    return cup_site_runs(&run->site, 0);
}

/* Both from 0 and from just before the wrap. */
static const uint32_t starts[] = {0, UINT32_MAX - 12000};
#define EACH_START(t0)                                                         \
    for (size_t k = 0; k < 2; k++)                                             \
        for (uint32_t t0 = starts[k], once = 1; once; once = 0)

static void begin_running(struct run *run, uint32_t t0)
{
    begin(run);
    CHECK(!pass(run, t0, 900));
    CHECK(pass(run, t0 + 5000, 900));
}

CASE(a_late_pass_stops_what_runs)
{
    struct run run;
    EACH_START(t0)
    {
        begin_running(&run, t0);
        CHECK(pass(&run, t0 + 15000, -1));
        CHECK(!pass(&run, t0 + 25001, -1));
        CHECK_INT(run.last.kind, CUP_KIND_STOP);
        CHECK_INT(run.last.cause.reason, CUP_REASON_LATE);
        CHECK_INT(run.last.cause.value, 10001);
        CHECK_INT(run.last.cause.limit, 10000);
    }
}

CASE(after_a_late_pass_only_a_fresh_sample_starts)
{
    struct run run;
    EACH_START(t0)
    {
        begin_running(&run, t0);
        CHECK(!pass(&run, t0 + 20000, -1));
        CHECK(!pass(&run, t0 + 25000, -1));
        CHECK_INT(cup_site_why(&run.site, 0).reason, CUP_REASON_NOT_FRESH);
        CHECK(pass(&run, t0 + 26000, 900));
    }
}

CASE(a_fresh_sample_in_the_late_pass_itself_counts_but_rest_must_be_over)
{
    struct run run;
    EACH_START(t0)
    {
        begin_running(&run, t0);
        CHECK(!pass(&run, t0 + 20000, 900));
        CHECK_INT(cup_site_why(&run.site, 0).reason, CUP_REASON_REST);
        CHECK(!pass(&run, t0 + 24999, -1));
        CHECK(pass(&run, t0 + 25000, -1));
    }
}

CASE(sleeping_long_is_fine_while_everything_is_off)
{
    struct run run;
    begin(&run);
    CHECK(!pass(&run, 0, 500));
    CHECK(!pass(&run, 3600000, 500));
    CHECK_INT(run.events, 1);
    CHECK(pass(&run, 3630000, 960));
}

CASE(time_that_goes_back_stops_everything_and_timers_keep_what_they_had)
{
    struct run run;
    EACH_START(t0)
    {
        begin_running(&run, t0);
        CHECK(pass(&run, t0 + 8000, 900));
        CHECK(!pass(&run, t0 + 7000, -1));
        CHECK_INT(run.last.kind, CUP_KIND_STOP);
        CHECK_INT(run.last.cause.reason, CUP_REASON_TIME_BACK);
        CHECK_INT(run.last.cause.value, 1000);
        CHECK_INT(run.events, 4);
        CHECK(!pass(&run, t0 + 11999, -1));
        CHECK(pass(&run, t0 + 12000, -1));
    }
}

CASE(time_that_stands_still_changes_no_duty)
{
    struct run run;
    begin_running(&run, 0);
    CHECK(pass(&run, 5000, 100));
    CHECK(pass(&run, 5000, 100));
    CHECK(!pass(&run, 5001, -1));
}

CASE(steering_works_while_time_stands_still)
{
    struct run run;
    struct cup_word off = {.verb = CUP_VERB_OFF};
    begin_running(&run, 0);
    CHECK_INT(cup_site_steer(&run.site, 5000, &off), CUP_OK);
    CHECK(!pass(&run, 5000, -1));
}

CASE(the_site_says_how_long_it_may_sleep)
{
    struct run run;
    struct cup_want want;
    begin(&run);
    CHECK(cup_site_ask(&run.site, 0, &want));
    CHECK(!cup_site_ask(&run.site, 0, &want));
    CHECK(!pass(&run, 0, 500));
    CHECK_INT(cup_site_wait(&run.site), 5000);
    CHECK(!pass(&run, 5000, -1));
    CHECK_INT(cup_site_wait(&run.site), 25000);
    CHECK(!cup_site_ask(&run.site, 29999, &want));
    CHECK(cup_site_ask(&run.site, 30000, &want));
}

/* Who sleeps as long as it is told, and wakes a little late, is never late:
 * `every` of 30 s is longer than `late`. */
CASE(who_sleeps_as_it_is_told_is_never_late)
{
    struct run run;
    uint32_t now = 0;
    begin(&run);
    begin_running(&run, 0);
    now = 5000;
    for (int i = 0; i < 200; i++) {
        uint32_t wait = cup_site_wait(&run.site);
        CHECK(wait >= CUP_WAIT_LEAST_MS);
        CHECK(wait <= plan.late_ms / 2);
        now += wait + wait / 2;
        CHECK(pass(&run, now, 900));
    }
}

CASE(words_for_nobody_are_refused_and_change_nothing)
{
    struct run run;
    struct run before;
    begin_running(&run, 0);
    before = run;
    static const struct cup_word wrong[] = {
        {.verb = CUP_VERB_OFF, .target = 2},
        {.verb = CUP_VERB_COUNT},
        {.verb = CUP_VERB_HAND},
        {.verb = CUP_VERB_HAND, .number = 1},
    };
    for (size_t i = 0; i < sizeof(wrong) / sizeof(wrong[0]); i++)
        CHECK(cup_site_steer(&run.site, 6000, &wrong[i]) != CUP_OK);
    CHECK_INT(memcmp(before.state, run.state, sizeof(run.state)), 0);
}

CASE(a_block_too_small_or_a_foreign_plan_is_refused)
{
    struct cup_site site;
    uint32_t state[64];
    struct cup_plan foreign = plan;
    foreign.layout = CUP_LAYOUT + 1;
    CHECK_INT(cup_site_bind(&site, &foreign, state, sizeof(state)),
              CUP_ERROR_LAYOUT);
    CHECK_INT(cup_site_bind(&site, &plan, state, cup_site_size(&plan) - 1),
              CUP_ERROR_SPACE);
}

CASE(shutting_down_turns_everything_off_for_good)
{
    struct run run;
    struct cup_sink sink = {take, &run};
    begin_running(&run, 0);
    cup_site_shut_down(&run.site, &sink);
    CHECK(!cup_site_runs(&run.site, 0));
    CHECK_INT(run.last.cause.reason, CUP_REASON_SHUT_DOWN);
    CHECK(!pass(&run, 60000, 900));
}
