/* Closes the loop: a garden that answers and feels the outputs, faults at
 * random, and the rules that watch. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "oracle.h"

/* What is true of the garden, in hundredths of a per cent. */
struct garden {
    int level[SENSORS];
    int fault[SENSORS]; /* passes that a fault still lasts */
    int kind[SENSORS];
    int wrong[SENSORS]; /* what a rung says */
    int still;          /* passes that the meter still stands */
};

enum fault { SILENT, STUCK, WILD, RUNG, FAULTS };

static int held(int value, int low, int high)
{
    return value < low ? low : value > high ? high : value;
}

static void flow(struct garden *garden, const bool *on, int seconds)
{
    int *level = garden->level;
    level[0] += seconds * (3 - 12 * on[0]);
    level[1] += seconds * (10 * on[0] - 14 * on[1] - 6 * on[2] - 8 * on[3]);
    level[3] += seconds * (on[1] && on[PUMPS] ? 40 : -4);
    level[4] += seconds * (on[1] && on[PUMPS + 1] ? 30 : -5);
    level[5] += seconds * (on[2] ? 25 : -3);
    for (int i = 0; i < SENSORS; i++)
        level[i] = held(level[i], 0, 10000);
}

/* The meter turns while any pump runs, if water comes. */
static void turn_meter(struct garden *garden, const bool *on,
                       struct chance *chance)
{
    bool runs = false;
    for (int i = 0; i < PUMPS; i++)
        runs |= on[i];
    if (garden->still > 0)
        garden->still--;
    else if (chance_of(chance, 1))
        garden->still = chance_between(chance, 20, 200);
    garden->level[METER] = runs && garden->still == 0 ? 5000 : 1000;
}

static void begin_fault(struct garden *garden, int i, struct chance *chance)
{
    garden->kind[i] = chance_between(chance, 0, FAULTS - 1);
    garden->fault[i] = chance_between(chance, 1, 30);
    if (garden->kind[i] == WILD)
        garden->fault[i] = 1;
    garden->wrong[i] = chance_between(chance, 0, 1000);
}

static int sample(struct garden *garden, int i, struct chance *chance, int last)
{
    int raw = garden->level[i] / 10 + chance_between(chance, -2, 2);
    if (garden->fault[i] == 0 && chance_of(chance, 1))
        begin_fault(garden, i, chance);
    if (garden->fault[i] > 0) {
        garden->fault[i]--;
        if (garden->kind[i] == SILENT)
            return -1;
        if (garden->kind[i] == STUCK && last >= 0)
            return last;
        if (garden->kind[i] == WILD)
            return chance_between(chance, 0, 1200);
        if (garden->kind[i] == RUNG && i < TANKS)
            raw = garden->wrong[i] + chance_between(chance, -2, 2);
    }
    return held(raw, 0, 1000);
}

static const char *some_word(struct chance *chance)
{
    static char word[60];
    static const char *const verbs[] = {"off", "auto", "hand", "clear", "auto"};
    int verb = chance_between(chance, 0, 4);
    int who = chance_between(chance, 0, OUTPUTS - 1);
    if (!chance_of(chance, 3))
        return NULL;
    if (chance_of(chance, 10))
        return chance_of(chance, 30) ? "site hold" : "site go";
    if (chance_of(chance, 10)) {
        snprintf(word, sizeof(word), "%s clear",
                 duty_names[chance_between(chance, 0, DUTIES - 2)]);
        return word;
    }
    if (who >= PUMPS)
        verb = chance_between(chance, 0, 1);
    snprintf(word, sizeof(word), "%s %s%s", output_names[who], verbs[verb],
             verb == 2 ? " 20s" : "");
    return word;
}

/* The site is let go sooner than it is held, and what is off comes back. */
static const char *mend(struct chance *chance, int pass)
{
    static char word[60];
    if (pass % 50 == 49)
        return "site go";
    if (pass % 50 >= OUTPUTS)
        return some_word(chance);
    if (!chance_of(chance, 40))
        return NULL;
    snprintf(word, sizeof(word), "%s auto", output_names[pass % 50]);
    return word;
}

static uint32_t some_step(struct chance *chance)
{
    if (chance_of(chance, 1))
        return 1000u * (uint32_t)chance_between(chance, 5, 40);
    return chance_of(chance, 15) ? 2000 : 1000;
}

/* What went in and came out, of a site that broke a rule. */
static bool loud;

static void tell_levels(const struct view *view)
{
    for (int i = 0; i < LEVELS; i++)
        printf(" %s %d%s", level_names[i], view->level[i],
               view->known[i] ? "" : "?");
    for (int i = SENSORS; i < LEVELS; i++)
        if (view->low[i] != view->high[i])
            printf(" %s %d..%d", level_names[i], view->low[i], view->high[i]);
}

static void tell(uint64_t now, const struct into *into, const struct view *view)
{
    if (!loud)
        return;
    printf("%llu", (unsigned long long)now);
    tell_levels(view);
    for (int i = 0; i < OUTPUTS; i++)
        printf(" %s%s%s", view->on[i] ? "+" : "-", output_names[i],
               into->failing[i] ? "!" : "");
    printf(" %s%s\n", into->word ? into->word : "",
           into->word && !view->taken ? " (refused)" : "");
}

/* A site being played. */
struct play {
    const struct driver *driver;
    struct own_site site;
    struct garden garden;
    struct into into;
    struct view view;
    uint64_t now;
    bool steers;
    bool cuts;
};

static void fail_some(struct play *play, struct chance *chance)
{
    if (!play->driver->can_fail || !play->steers)
        return;
    for (int i = 0; i < PUMPS; i++)
        if (chance_of(chance, play->into.failing[i] ? 10 : 0))
            play->into.failing[i] = false;
    if (chance_of(chance, 1))
        play->into.failing[chance_between(chance, 0, PUMPS - 1)] = true;
}

/* Time goes on; or the power fails, with the pumps as they are. */
static void go_on(struct play *play, struct chance *chance)
{
    const bool *on = play->view.on;
    bool wets = on[1] || on[2] || on[3];
    uint32_t step = some_step(chance);
    bool cut = play->cuts && chance_of(chance, wets ? 4 : 0);
    if (cut)
        step = (uint32_t)chance_between(chance, 0, 1) * 1000;
    flow(&play->garden, on, (int)step / 1000);
    turn_meter(&play->garden, on, chance);
    play->now += step;
    play->into.t_ms += step;
    if (!cut)
        return;
    if (loud)
        printf("the power fails\n");
    play->driver->cut();
    play->driver->boot(&play->site, false);
    memset(play->into.failing, 0, sizeof(play->into.failing));
    rules_boot(play->now);
}

static void one_pass(struct play *play, struct chance *chance, int pass)
{
    play->into.word = play->steers ? mend(chance, pass) : NULL;
    for (int i = 0; i < SENSORS; i++)
        play->into.raw[i] = sample(&play->garden, i, chance, play->into.raw[i]);
    fail_some(play, chance);
    play->driver->step(&play->into, &play->view);
    tell(play->now, &play->into, &play->view);
    rules_look(play->now, &play->into, &play->view);
    go_on(play, chance);
}

/* Plays one site. Returns the pass that broke a rule, or -1. */
static int play_one(const struct driver *driver, uint32_t seed, int passes)
{
    static struct play play;
    struct chance chance = chance_from(seed);
    play = (struct play){
        .driver = driver,
        .garden = {.level = {8000, 5000, 5000, 3000, 3000, 3000, 0}},
        .now = 1000000};
    play.into.t_ms = chance_of(&chance, 30) ? UINT32_MAX - 60000 : 0;
    play.steers = chance_of(&chance, 60);
    play.cuts = chance_of(&chance, 60);
    site_make(&play.site, &chance);
    driver->boot(&play.site, true);
    rules_begin(&play.site, driver);
    rules_boot(play.now);
    int pass;
    for (pass = 0; pass < passes && (loud || !harness_failed()); pass++) {
        harness_at("%s, seed %u, pass %d", driver->name, (unsigned)seed, pass);
        one_pass(&play, &chance, pass);
    }
    driver->end(&play.view);
    for (int i = 0; i < OUTPUTS; i++)
        CHECK(!play.view.on[i]);
    if (loud)
        printf("%s", play.site.text);
    harness_at(NULL);
    return harness_failed() ? pass : -1;
}

static void play_all(const struct driver *driver, int sites, int passes)
{
    const char *more = getenv("ORACLE_SITES");
    if (more)
        sites = atoi(more);
    for (int i = 0; i < sites && !harness_failed(); i++) {
        uint32_t seed = harness_seed() + (uint32_t)i;
        int broken = play_one(driver, seed, passes);
        loud = broken >= 0;
        if (loud)
            play_one(driver, seed, broken);
    }
}

CASE(by_calls_no_rule_is_broken)
{
    play_all(&by_calls, 100, 1000);
}

CASE(by_lines_no_rule_is_broken)
{
    play_all(&by_lines, 10, 400);
}
