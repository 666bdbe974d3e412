/* What is advised follows from what was recorded, each number from its own
 * evidence, and never loosens a guard in silence. */
#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "../../advice/propose.h"
#include "../harness/harness.h"

#define EVERY_MS 2000
#define DAY 43200 /* samples */

/* The same chances on every machine. */
static uint32_t state;

static double chance(void)
{
    state = state * 1664525u + 1013904223u;
    return (state >> 8) / 16777216.0;
}

/* Nearly normal: twelve chances, less six. */
static double normal(void)
{
    double sum = -6;
    for (int i = 0; i < 12; i++)
        sum += chance();
    return sum;
}

/* A day that goes up and down between 2000 and 3000, with noise, rows of spikes
 * every so often, and rows without an answer. */
struct day {
    double noise;
    int spikes; /* in a row; 0: none */
    int misses;
};

static struct series_facts facts_of(struct day day)
{
    struct series series = {.list = NULL};
    struct series_facts facts;
    state = 11;
    for (int i = 0; i < DAY; i++) {
        uint64_t at_ms = (uint64_t)i * EVERY_MS;
        double raw = 2500 + 500 * sin(i / 6000.0) + day.noise * normal();
        if (i % 200 < day.spikes)
            raw += 900 + 300 * chance();
        if (i % 500 >= 250 && i % 500 < 250 + day.misses)
            series_miss(&series, at_ms);
        else
            series_add(&series, at_ms, (int32_t)lround(raw));
    }
    CHECK(series_look(&series, &facts));
    series_free(&series);
    return facts;
}

CASE(noise_spikes_and_silence_are_told_apart)
{
    static const struct day days[] = {
        {3, 0, 0}, {12, 1, 0}, {12, 3, 5}, {25, 4, 1}};
    for (size_t i = 0; i < sizeof(days) / sizeof(days[0]); i++) {
        struct series_facts facts = facts_of(days[i]);
        harness_at("day %zu", i);
        CHECK(fabs(facts.noise - days[i].noise) < 0.25 * days[i].noise + 0.5);
        CHECK_INT(facts.in_a_row, days[i].spikes);
        CHECK(facts.low > 1850 && facts.high < 3150);
        CHECK_INT(facts.silent_ms, (days[i].misses + 1) * EVERY_MS);
        CHECK(fabs(facts.unanswered - days[i].misses / 500.0) < 1e-3);
    }
    harness_at(NULL);
}

CASE(few_samples_tell_nothing)
{
    struct series series = {.list = NULL};
    struct series_facts facts;
    for (int i = 0; i < SERIES_LEAST - 1; i++)
        series_add(&series, (uint64_t)i * EVERY_MS, i);
    CHECK(!series_look(&series, &facts));
    series_free(&series);
}

static const struct sensor_now bare = {.marked = true,
                                       .from = 3300,
                                       .to = 1500,
                                       .window = 1,
                                       .every_ms = EVERY_MS,
                                       .lost_ms = 20000,
                                       .stuck_ms = -1};

static const struct proposal *of(const struct proposal *list, size_t count,
                                 const char *key)
{
    for (size_t i = 0; i < count; i++)
        if (strcmp(list[i].key, key) == 0)
            return &list[i];
    return NULL;
}

CASE(a_file_without_guards_gets_those_that_the_days_call_for)
{
    struct proposal list[PROPOSALS_MOST];
    struct series_facts facts = facts_of((struct day){12, 3, 8});
    size_t count = propose(&bare, &facts, list);
    int low = 0;
    int high = 0;
    CHECK_INT(count, 4);
    const struct proposal *plausible = of(list, count, "plausible");
    CHECK(plausible && sscanf(plausible->value, "%d..%d", &low, &high) == 2);
    CHECK(low < 1500 && low > 1000 && high > 3300 && high < 3800);
    CHECK_TEXT(of(list, count, "smooth")->value, "median 7");
    CHECK(!of(list, count, "smooth")->looser);
    CHECK(!of(list, count, "stuck")->looser);
    /* 18 s without an answer, and the file holds a value for 20 */
    CHECK_TEXT(of(list, count, "lost_after")->value, "40s");
    CHECK(of(list, count, "lost_after")->looser);
}

CASE(guards_that_do_are_left_alone)
{
    struct proposal list[PROPOSALS_MOST];
    struct series_facts facts = facts_of((struct day){12, 3, 8});
    struct sensor_now good = bare;
    good.has_plausible = true;
    good.window = 15;
    good.trim = 5;
    good.lost_ms = 60000;
    good.stuck_ms = 60000;
    CHECK_INT(propose(&good, &facts, list), 0);
    good.trim = 2; /* three spikes in a row get past it */
    CHECK_INT(propose(&good, &facts, list), 1);
    CHECK_TEXT(list[0].key, "smooth");
    good.trim = 5;
    good.lost_ms = 3600000; /* far longer than any silence */
    CHECK_INT(propose(&good, &facts, list), 1);
    CHECK_TEXT(list[0].key, "lost_after");
    CHECK(!list[0].looser);
}

CASE(what_never_scatters_cannot_be_told_from_what_is_stuck)
{
    struct proposal list[PROPOSALS_MOST];
    struct series_facts facts = facts_of((struct day){0.2, 0, 0});
    CHECK(of(list, propose(&bare, &facts, list), "stuck") == NULL);
}

CASE(times_are_those_that_people_write)
{
    static const struct {
        uint64_t ms;
        const char *text;
    } rows[] = {{1, "1s"},       {1000, "1s"},     {1001, "2s"},
                {61000, "75s"},  {59000, "1m"},    {100000, "2m"},
                {3500000, "1h"}, {86400000, "24h"}};
    char text[24];
    for (size_t i = 0; i < sizeof(rows) / sizeof(rows[0]); i++) {
        propose_time(rows[i].ms, text, sizeof(text));
        CHECK_TEXT(text, rows[i].text);
    }
}
