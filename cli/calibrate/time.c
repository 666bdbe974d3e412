/* cuplatch calibrate SITE --time PUMP: what a pump gives, by running it. The
 * controller that runs it keeps all its guards. */
#include <stdlib.h>
#include <string.h>

#include "../../grammar/quantity.h"
#include "../common/json_in.h"
#include "../common/reach.h"
#include "../look/frame.h"
#include "calibration.h"
#include "cuplatch/say.h"

/* Less than so many hundredths of a tank is lost in the noise. */
#define MOVED_LEAST_PCT 1.0
/* What smoothing keeps back comes within so long of the site's time. */
#define SETTLE_S 30
/* A rest may keep it waiting for so long, and a level that is not sure. */
#define START_S 600

struct timing {
    struct calibration *calibration;
    struct client *client;
    struct heard heard;
    const char *pump;
    const char *tank; /* what it fills, or else draws from */
    cup_index thing;  /* that tank */
    bool fills;
    const char *until; /* a float that ends it; null: it runs its time */
    const char *duty;  /* whose flood ends by it, */
    const char *key;   /* and how long that may take */
    double answered_s; /* when the float did; -1: not yet */
    double started_s, stopped_s; /* of the site's clock; -1: not yet */
    double before_pct;
    bool told;       /* an answer came */
    bool was_off;    /* its switch, before */
    char other[160]; /* what disturbed it; empty: nothing did */
    char blocked[160];
    char wrong[160];
};

static int fail(const char *what)
{
    fprintf(stderr, "cuplatch: %s; nothing was changed\n", what);
    return EXIT_NO;
}

/* The tank of the site that the pump fills, or else draws from. */
static bool find_tank(struct timing *timing)
{
    const struct cup_file *file = timing->calibration->site.file;
    const struct cup_plan *plan = timing->calibration->site.site.plan;
    static const char *const keys[] = {"into", "from"};
    for (int key = 0; key < 2; key++) {
        const char *name = cup_file_value(file, timing->pump, keys[key]);
        for (cup_index i = 0; name && i < plan->tank_count; i++) {
            cup_index thing = cup_tank_thing(plan, i);
            if (strcmp(cup_thing_name(plan, thing), name) != 0 ||
                tank_holds(plan, thing, CUP_TANK_FULL) <= 0)
                continue;
            timing->tank = name;
            timing->thing = thing;
            timing->fills = key == 0;
            return true;
        }
    }
    return false;
}

/* The duty that the pump floods for until a float answers. */
static bool find_duty(struct timing *timing)
{
    const struct cup_file *file = timing->calibration->site.file;
    const struct cup_plan *plan = timing->calibration->site.site.plan;
    for (cup_index i = 0; i < plan->duty_count; i++) {
        const char *name = cup_thing_name(plan, cup_duty_thing(plan, i));
        const char *run = cup_file_value(file, name, "run");
        const char *until = cup_file_value(file, name, "until");
        if (!run || strcmp(run, timing->pump) != 0 || !until ||
            strcmp(until, timing->until) != 0)
            continue;
        timing->duty = name;
        timing->key = cup_file_value(file, name, "flood") ? "flood" : "for";
        return true;
    }
    return false;
}

/* What a tank or a float says; negative when nobody knows. */
static double value_of(const struct timing *timing, const char *name)
{
    const json_t *level =
        json_object_get(json_object_get(timing->heard.now, "levels"), name);
    const json_t *value = json_object_get(level, "value");
    return json_is_number(value) ? json_number_value(value) : -1;
}

/* How full the tank is, in per cent. */
static double level_of(const struct timing *timing)
{
    return value_of(timing, timing->tank);
}

/* A tank of the pump that holds nobody knows what; null: there is none. */
static const char *unsure_tank(const struct timing *timing)
{
    static const char *const keys[] = {"from", "into"};
    const struct cup_file *file = timing->calibration->site.file;
    for (int key = 0; key < 2; key++) {
        const char *name = cup_file_value(file, timing->pump, keys[key]);
        const json_t *level =
            name ? json_object_get(json_object_get(timing->heard.now, "levels"),
                                   name)
                 : NULL;
        if (json_object_get(level, "low"))
            return name;
    }
    return NULL;
}

/* Whether another pump moves the same tank. */
static bool disturbs(const struct timing *timing, const char *pump)
{
    const struct cup_file *file = timing->calibration->site.file;
    const char *into = cup_file_value(file, pump, "into");
    const char *from = cup_file_value(file, pump, "from");
    return strcmp(pump, timing->pump) != 0 &&
           ((into && strcmp(into, timing->tank) == 0) ||
            (from && strcmp(from, timing->tank) == 0));
}

static void note_other(struct timing *timing, const char *pump)
{
    if (disturbs(timing, pump))
        snprintf(timing->other, sizeof(timing->other),
                 "%.40s moved %.40s meanwhile: switch it off, and try again",
                 pump, timing->tank);
}

/* What runs already when it begins. */
static void note_running(struct timing *timing)
{
    const char *name;
    json_t *pump;
    json_object_foreach(json_object_get(timing->heard.now, "pumps"), name, pump)
    {
        if (strcmp(text_in(pump, "is"), "running") == 0)
            note_other(timing, name);
    }
}

static void take_event(struct timing *timing, const json_t *event)
{
    const char *kind = text_in(event, "kind");
    const char *of = text_in(event, "of");
    if (strcmp(kind, "start") == 0)
        note_other(timing, of);
    if (strcmp(of, timing->pump) != 0)
        return;
    if (strcmp(kind, "block") == 0)
        snprintf(timing->blocked, sizeof(timing->blocked), "%s",
                 text_in(event, "why"));
    if (strcmp(kind, "start") == 0 && timing->started_s < 0)
        timing->started_s = number_in(event, "t");
    if (strcmp(kind, "stop") == 0 && timing->started_s >= 0) {
        timing->stopped_s = number_in(event, "t");
        snprintf(timing->wrong, sizeof(timing->wrong), "%s",
                 text_in(event, "why"));
    }
}

/* The next line. False when there is none any more. */
static bool take_line(struct timing *timing)
{
    json_t *line = client_hear(timing->client, 10000);
    if (!line)
        return false;
    const json_t *error = json_object_get(line, "error");
    const json_t *event = json_object_get(line, "event");
    heard_take(&timing->heard, line);
    if (json_object_get(line, "done")) {
        timing->told = true;
        snprintf(timing->wrong, sizeof(timing->wrong), "%s",
                 error ? json_string_value(error) : "");
    }
    if (event)
        take_event(timing, event);
    json_decref(line);
    return true;
}

static bool tell(struct timing *timing, const char *word)
{
    char text[100];
    snprintf(text, sizeof(text), "%.40s %.40s", timing->pump, word);
    timing->told = false;
    if (!client_say(timing->client, json_pack("{s:[s]}", "tell", text)))
        return false;
    while (!timing->told)
        if (!take_line(timing))
            return false;
    return true;
}

/* The hand run is not to go on: its switch is as it was. */
static int give_up(struct timing *timing, const char *why)
{
    char kept[200];
    snprintf(kept, sizeof(kept), "%s", why);
    tell(timing, timing->was_off ? "off" : "auto");
    return fail(kept);
}

/* Why it will not start; null while it may, or has. */
static const char *why_not(const struct timing *timing, double waited_s)
{
    if (timing->started_s >= 0)
        return NULL;
    if (*timing->blocked)
        return timing->blocked;
    return waited_s > START_S ? "the pump does not start" : NULL;
}

/* The float has answered: the run was long enough, and is over. */
static bool note_answer(struct timing *timing)
{
    if (!timing->until || timing->answered_s >= 0 || timing->started_s < 0 ||
        value_of(timing, timing->until) != 1)
        return true;
    timing->answered_s = number_in(timing->heard.now, "t");
    return tell(timing, timing->was_off ? "off" : "auto");
}

/* Until it has run, and what smoothing keeps back has come. When it is told to
 * end, or the pump may not start, the pump is switched back at once. */
static int watch(struct timing *timing)
{
    const volatile int *stop = stop_flag();
    double begun_s = number_in(timing->heard.now, "t");
    for (;;) {
        double now_s = number_in(timing->heard.now, "t");
        if (timing->stopped_s >= 0 &&
            (timing->until || now_s >= timing->stopped_s + SETTLE_S))
            return EXIT_DONE;
        const char *why =
            *stop ? "it was told to end" : why_not(timing, now_s - begun_s);
        if (why)
            return give_up(timing, why);
        if ((!take_line(timing) || !note_answer(timing)) && !*stop)
            return fail("the controller went away, or is stuck");
    }
}

/* Why it cannot be told now; null when it can. */
static const char *cannot_begin(struct timing *timing)
{
    const json_t *pump = json_object_get(
        json_object_get(timing->heard.now, "pumps"), timing->pump);
    if (!pump)
        return "that controller has no such pump";
    if (strcmp(text_in(pump, "is"), "running") == 0)
        return "the pump runs already: wait until it is off";
    timing->was_off = strcmp(text_in(pump, "switch"), "off") == 0;
    if (timing->until)
        return value_of(timing, timing->until) == 0
                   ? NULL
                   : "the float is up already, or lost: it can tell nothing";
    timing->before_pct = level_of(timing);
    return timing->before_pct >= 0 ? NULL
                                   : "the level of its tank is not known now";
}

/* Until what its tanks hold is believed: two minutes after a first start. */
static const char *await_levels(struct timing *timing)
{
    const volatile int *stop = stop_flag(); /* from now on it ends in order */
    const char *unsure = unsure_tank(timing);
    double begun_s = number_in(timing->heard.now, "t");
    if (unsure)
        fprintf(stderr,
                "waits until what %s holds is believed; who looks in may say "
                "it: cuplatch tell %s is 80%%\n",
                unsure, unsure);
    while (unsure_tank(timing)) {
        if (!take_line(timing))
            return "the controller went away, or is stuck";
        if (*stop)
            return "it was told to end";
        if (number_in(timing->heard.now, "t") > begun_s + START_S)
            return "what the tank holds is not believed";
    }
    return NULL;
}

static int run_it(struct timing *timing, const char *span)
{
    char word[60];
    client_say(timing->client, json_pack("{s:{}}", "follow"));
    while (json_object_size(timing->heard.now) == 0)
        if (!take_line(timing))
            return fail("the controller said nothing");
    const char *unsure = await_levels(timing);
    if (unsure)
        return fail(unsure);
    const char *cannot = cannot_begin(timing);
    if (cannot)
        return fail(cannot);
    snprintf(word, sizeof(word), "hand %.40s", span);
    if (!tell(timing, word))
        return fail("the controller went away, or is stuck");
    if (*timing->wrong)
        return fail(timing->wrong);
    if (timing->until) {
        fprintf(stderr, "%s runs until %s answers, for %s at most\n",
                timing->pump, timing->until, span);
        return watch(timing);
    }
    note_running(timing);
    fprintf(stderr, "%s runs for %s; let nothing else move %s meanwhile\n",
            timing->pump, span, timing->tank);
    return watch(timing);
}

/* From how far the tank rose or fell. */
static int reckon(struct timing *timing)
{
    const struct cup_plan *plan = timing->calibration->site.site.plan;
    struct edits edits = {.count = 1};
    double after_pct = level_of(timing);
    double moved = timing->fills ? after_pct - timing->before_pct
                                 : timing->before_pct - after_pct;
    double litres =
        moved / 100 * tank_holds(plan, timing->thing, CUP_TANK_FULL) / 1000.0;
    double ran_s = timing->stopped_s - timing->started_s;
    char ran[30];
    cup_say_value(ran, sizeof(ran), NULL, (int32_t)(ran_s * 1000),
                  CUP_UNIT_SECOND);
    printf("%s went from %.2f %% to %.2f %%: %.2f L in %s (%s)\n", timing->tank,
           timing->before_pct, after_pct, litres, ran, timing->wrong);
    if (*timing->other)
        return fail(timing->other);
    if (after_pct < 0 || moved < MOVED_LEAST_PCT || ran_s < 1)
        return fail(
            "that is too little to tell; run it for longer, with --for");
    snprintf(edits.values[0], sizeof(edits.values[0]), "%.*fL/min",
             litres / ran_s * 60 < 10 ? 2 : 1, litres / ran_s * 60);
    edits.list[0] = (struct cup_edit){timing->pump, "flow", edits.values[0]};
    return calibration_write(timing->calibration, &edits);
}

/* How long it took until the float answered. */
static int reckon_time(const struct timing *timing)
{
    struct edits edits = {.count = 1};
    if (timing->answered_s < 0) {
        fprintf(stderr,
                "cuplatch: %s stopped before %s answered: %s; nothing "
                "was changed\n",
                timing->pump, timing->until, timing->wrong);
        return EXIT_NO;
    }
    double took_s = timing->answered_s - timing->started_s;
    printf("%s answered after %.0f s\n", timing->until, took_s);
    snprintf(edits.values[0], sizeof(edits.values[0]), "%.0fs", took_s);
    edits.list[0] =
        (struct cup_edit){timing->duty, timing->key, edits.values[0]};
    return calibration_write(timing->calibration, &edits);
}

static bool is_wish_right(struct timing *timing, const struct timing_wish *wish)
{
    struct words *words = timing->calibration->words;
    double span_s;
    if (wish->span && (quantity_read_time(wish->span, &span_s) || span_s <= 0))
        wrong_use(words, "--for %s: expected a time such as 2m", wish->span);
    else if (wish->until && !find_duty(timing))
        wrong_use(words,
                  "--until %s: expected the float of a duty that this pump "
                  "floods for, by its key until",
                  wish->until);
    else if (!wish->until && !find_tank(timing))
        wrong_use(words,
                  "--time %s: expected a pump with a tank of known volume in "
                  "its into or from",
                  wish->pump);
    else
        return true;
    return false;
}

int calibration_time(struct calibration *calibration,
                     const struct timing_wish *wish)
{
    const char *span = wish->span ? wish->span : "2m";
    struct timing timing = {.calibration = calibration,
                            .pump = wish->pump,
                            .until = wish->until,
                            .answered_s = -1,
                            .started_s = -1,
                            .stopped_s = -1};
    if (!is_wish_right(&timing, wish))
        return EXIT_USAGE;
    timing.client = client_reach(wish->socket);
    if (!timing.client)
        return EXIT_OUTSIDE;
    int code = run_it(&timing, span);
    if (code == EXIT_DONE)
        code = wish->until ? reckon_time(&timing) : reckon(&timing);
    heard_free(&timing.heard);
    client_close(timing.client);
    return code;
}
