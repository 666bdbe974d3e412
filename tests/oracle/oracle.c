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
};

enum fault { SILENT, STUCK, WILD, FAULTS };

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

static int sample(struct garden *garden, int i, struct chance *chance, int last)
{
    int raw = garden->level[i] / 10 + chance_between(chance, -2, 2);
    if (garden->fault[i] == 0 && chance_of(chance, 1)) {
        garden->kind[i] = chance_between(chance, 0, FAULTS - 1);
        garden->fault[i] = chance_between(chance, 1, 30);
        if (garden->kind[i] == WILD)
            garden->fault[i] = 1;
    }
    if (garden->fault[i] > 0) {
        garden->fault[i]--;
        if (garden->kind[i] == SILENT)
            return -1;
        if (garden->kind[i] == STUCK && last >= 0)
            return last;
        if (garden->kind[i] == WILD)
            return chance_between(chance, 0, 1200);
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

static void tell(uint64_t now, const struct into *into, const struct view *view)
{
    if (!loud)
        return;
    printf("%llu", (unsigned long long)now);
    for (int i = 0; i < LEVELS; i++)
        printf(" %s %d%s", level_names[i], view->level[i],
               view->known[i] ? "" : "?");
    for (int i = 0; i < OUTPUTS; i++)
        printf(" %s%s%s", view->on[i] ? "+" : "-", output_names[i],
               into->failing[i] ? "!" : "");
    printf(" %s%s\n", into->word ? into->word : "",
           into->word && !view->taken ? " (refused)" : "");
}

/* Plays one site. Returns the pass that broke a rule, or -1. */
static int play(const struct driver *driver, uint32_t seed, int passes)
{
    static struct own_site site;
    struct chance chance = chance_from(seed);
    struct garden garden = {.level = {8000, 5000, 5000, 3000, 3000, 3000, 0}};
    struct into into = {.t_ms =
                            chance_of(&chance, 30) ? UINT32_MAX - 60000 : 0};
    struct view view = {.taken = false};
    uint64_t now = 1000000;
    bool steers = chance_of(&chance, 60);
    bool cuts = chance_of(&chance, 60);
    site_make(&site, &chance);
    driver->boot(&site, true);
    rules_begin(&site, driver);
    rules_boot(now);
    int pass;
    for (pass = 0; pass < passes && (loud || !harness_failed()); pass++) {
        harness_at("%s, seed %u, pass %d", driver->name, (unsigned)seed, pass);
        into.word = steers ? mend(&chance, pass) : NULL;
        for (int i = 0; i < SENSORS; i++)
            into.raw[i] = sample(&garden, i, &chance, into.raw[i]);
        for (int i = 0; i < PUMPS; i++)
            if (driver->can_fail &&
                chance_of(&chance, into.failing[i] ? 10 : 0))
                into.failing[i] = false;
        if (driver->can_fail && steers && chance_of(&chance, 1))
            into.failing[chance_between(&chance, 0, PUMPS - 1)] = true;
        driver->step(&into, &view);
        tell(now, &into, &view);
        rules_look(now, &into, &view);
        bool wets = view.on[1] || view.on[2] || view.on[3];
        uint32_t step = some_step(&chance);
        if (cuts && chance_of(&chance, wets ? 4 : 0)) {
            driver->cut();
            if (loud)
                printf("the power fails\n");
            step = (uint32_t)chance_between(&chance, 0, 1) * 1000;
            flow(&garden, view.on, (int)step / 1000);
            driver->boot(&site, false);
            memset(into.failing, 0, sizeof(into.failing));
            rules_boot(now + step);
        } else
            flow(&garden, view.on, (int)step / 1000);
        now += step;
        into.t_ms += step;
    }
    driver->end(&view);
    for (int i = 0; i < OUTPUTS; i++)
        CHECK(!view.on[i]);
    if (loud)
        printf("%s", site.text);
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
        int broken = play(driver, seed, passes);
        loud = broken >= 0;
        if (loud)
            play(driver, seed, broken);
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
