/* What is advised follows from what was recorded, each number from its own
 * evidence, and never loosens a guard in silence. */
#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "../../advice/bed.h"
#include "../../advice/flow.h"
#include "../../advice/propose.h"
#include "../../advice/quantity.h"
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

static const struct track never = {.list = NULL};
static const struct series_facts unheard = {.noise = 0};

static const struct sensor_now bare = {.marked = true,
                                       .silences = 86,
                                       .track = &never,
                                       .values = &unheard,
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
    good.silences = 0;
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

/* Values that do not change: a sensor that says the same. */
CASE(a_jump_is_further_than_it_ever_moved)
{
    struct proposal list[PROPOSALS_MOST];
    struct series_facts facts = facts_of((struct day){12, 1, 0});
    struct series_facts values = {.noise = 10};
    struct track track = {.list = NULL};
    struct sensor_now now = bare;
    double rate = 0;
    for (uint32_t s = 0; s < 86400; s += 2)
        track_add(&track, s, (int32_t)labs(7200 - 2 * (long)(s % 7200)));
    now.track = &track;
    now.values = &values;
    now.unit = CUP_UNIT_MM;
    const struct proposal *jump = of(list, propose(&now, &facts, list), "jump");
    CHECK(jump && sscanf(jump->value, "%lfmm/s", &rate) == 1);
    /* 0.2 mm a second, twice, and eight times 1 mm of noise in 2 s */
    CHECK(rate > 4 && rate < 5);
    now.jump = 2; /* as fast as it moves */
    jump = of(list, propose(&now, &facts, list), "jump");
    CHECK(jump && jump->looser);
    now.jump = 60;
    CHECK(!of(list, propose(&now, &facts, list), "jump"));
    now.jump = 6000;
    jump = of(list, propose(&now, &facts, list), "jump");
    CHECK(jump && !jump->looser);
    track_free(&track);
}

/* A tank that a pump draws from: 12 runs of 5 minutes that each take `by` steps
 * a second off it, and noise; after each it comes back by `back`. */
struct drawn {
    struct track track;
    struct runs runs, filler;
};

static struct drawn draw(double by, double noise, double back)
{
    struct drawn drawn = {.track = {.list = NULL}};
    double level = 60000;
    state = 5;
    for (uint32_t s = 0; s < 12 * 7200; s++) {
        uint32_t in = s % 7200;
        bool on = in >= 3600 && in < 3900;
        if (in == 3600)
            runs_begin(&drawn.runs, s, 9);
        if (in == 3900)
            runs_end(&drawn.runs, s);
        level -= on ? by : 0;
        level += in > 3900 && in <= 3960 ? back / 60 : 0;
        track_add(&drawn.track, s, (int32_t)lround(level + noise * normal()));
    }
    return drawn;
}

static void forget(struct drawn *drawn)
{
    track_free(&drawn->track);
    runs_free(&drawn->runs);
    runs_free(&drawn->filler);
}

static struct flow_sight sight_of(const struct drawn *drawn)
{
    return (struct flow_sight){.name = "header",
                               .track = &drawn->track,
                               .sign = -1,
                               .unit = CUP_UNIT_MM,
                               .lag_s = 8,
                               .old_s = 60,
                               .runs = &drawn->runs,
                               .others = {&drawn->filler},
                               .other_count = 1};
}

CASE(a_proof_asks_for_half_of_the_least_that_flowed)
{
    struct drawn drawn = draw(3, 2, 0);
    struct flow_sight sight = sight_of(&drawn);
    struct proposal proposal = {.looser = false};
    double mm = 0;
    int s = 0;
    CHECK(propose_proof(&sight, 0, 0, &proposal));
    CHECK(sscanf(proposal.value, "header falls %lfmm in %ds", &mm, &s) == 2);
    CHECK(s >= 16 && s <= 20); /* twice its lag */
    CHECK(mm > 0.08 * s && mm < 0.16 * s);
    CHECK(!proposal.looser);
    /* what does is left; nearly failing, and far too weak, are not */
    CHECK(!propose_proof(&sight, 45, 30, &proposal));
    CHECK(propose_proof(&sight, 80, 30, &proposal) && proposal.looser);
    proposal.looser = false;
    CHECK(propose_proof(&sight, 10, 30, &proposal) && !proposal.looser);
    /* another that fills the tank all the while leaves nothing to see */
    runs_begin(&drawn.filler, 0, -1);
    CHECK(!propose_proof(&sight, 0, 0, &proposal));
    forget(&drawn);
}

CASE(no_proof_is_advised_that_noise_could_pass)
{
    struct drawn drawn = draw(0.05, 40, 0);
    struct flow_sight sight = sight_of(&drawn);
    struct proposal proposal = {.looser = false};
    CHECK(!propose_proof(&sight, 0, 0, &proposal));
    CHECK(!propose_proof(&sight, 30, 40, &proposal));
    forget(&drawn);
}

CASE(a_tank_that_comes_back_needs_a_wider_way_to_dry_clear)
{
    struct drawn drawn = draw(3, 1, 300);
    struct flow_sight sight = sight_of(&drawn);
    struct proposal proposal = {.looser = false};
    double mark = 0;
    sight.unit = CUP_UNIT_PERCENT;
    CHECK(!propose_clear(&sight, 800, 1400, &proposal));
    CHECK(propose_clear(&sight, 800, 1000, &proposal));
    CHECK(sscanf(proposal.value, "%lf%%", &mark) == 1);
    CHECK(mark >= 14 && mark <= 15);
    forget(&drawn);
}

/* A bed of which each dose of 90 s lifts the reading by `lift`, 5 minutes late
 * and over `takes` seconds; four sessions of three doses, `soak` apart. */
static size_t advise_bed(double lift, uint32_t takes, uint32_t soak,
                         struct proposal *proposals)
{
    struct track track = {.list = NULL};
    struct runs runs = {.list = NULL};
    struct bed_facts facts;
    const uint32_t each = 90 + soak;
    for (uint32_t s = 0; s < 4 * 43200; s += 30) {
        uint32_t in = s % 43200;
        double level = 5000;
        for (uint32_t dose = 0; dose < 3; dose++) {
            double since = (double)in - (3600 + dose * each) - 300;
            level += lift * fmin(fmax(since / takes, 0), 1);
        }
        track_add(&track, s, (int32_t)lround(level));
    }
    for (uint32_t i = 0; i < 12; i++) {
        uint32_t at = i / 3 * 43200 + 3600 + i % 3 * each;
        runs_begin(&runs, at, 7);
        runs_end(&runs, at + 90);
    }
    const struct bed_now now = {.track = &track,
                                .runs = &runs,
                                .duty = 7,
                                .start = 5000,
                                .stop = 5800,
                                .unit = CUP_UNIT_PERCENT,
                                .dose_s = 90,
                                .soak_s = soak,
                                .old_s = 600};
    CHECK(bed_look(&now, &facts));
    CHECK_INT(facts.sessions, 4);
    CHECK_INT(facts.doses, 12);
    CHECK(fabs(facts.lift - lift) < 0.05 * lift);
    CHECK(facts.reach_s >= 300 && facts.reach_s <= 360 + takes / 3);
    size_t count = propose_bed(&now, &facts, proposals);
    track_free(&track);
    runs_free(&runs);
    return count;
}

CASE(doses_and_soaks_follow_from_what_one_does)
{
    struct proposal list[2];
    /* a third of the way, arrived within the soak: nothing to say */
    CHECK_INT(advise_bed(260, 120, 420, list), 0);
    /* water takes 20 minutes: the next dose came far too early */
    CHECK_INT(advise_bed(260, 1200, 420, list), 1);
    CHECK_TEXT(list[0].key, "soak");
    CHECK_TEXT(list[0].value, "20m");
    CHECK(!list[0].looser);
    /* one dose is nearly the whole way */
    CHECK_INT(advise_bed(700, 120, 420, list), 1);
    CHECK_TEXT(list[0].key, "dose");
    CHECK_TEXT(list[0].value, "40s");
    CHECK(!list[0].looser);
    /* a dose that hardly does anything, and a soak of an hour */
    CHECK_INT(advise_bed(70, 120, 3600, list), 2);
    CHECK(list[0].looser && list[1].looser);
    CHECK_TEXT(list[1].value, "3m");
}

CASE(quantities_are_those_that_people_write)
{
    char text[QUANTITY_SIZE];
    quantity_text(4321, CUP_UNIT_FLOW, false, text, sizeof(text));
    CHECK_TEXT(text, "4.3L/min");
    quantity_text(1234, CUP_UNIT_PERCENT, true, text, sizeof(text));
    CHECK_TEXT(text, "13%");
    quantity_text(15, CUP_UNIT_MM, false, text, sizeof(text));
    CHECK_TEXT(text, "1.5mm");
    quantity_text(120000, CUP_UNIT_PASCAL, false, text, sizeof(text));
    CHECK_TEXT(text, "1.2bar");
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
        quantity_time(rows[i].ms, text, sizeof(text));
        CHECK_TEXT(text, rows[i].text);
    }
}
