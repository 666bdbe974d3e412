/* A run as a story for people. */
#include "story.h"

#include <inttypes.h>
#include <stdarg.h>
#include <stdlib.h>
#include <string.h>

#include "../common/cli.h"
#include "cuplatch/say.h"

struct pump_total {
    uint64_t started_ms;
    uint64_t ran_ms;
    uint64_t longest_ms;
    uint64_t told_ms;
    uint64_t blocked_ms;
    unsigned starts;
    unsigned blocks;
    unsigned trips;
    unsigned unanswered;
    bool running;
    bool blocked;
};

struct level_total {
    int32_t lowest;
    int32_t highest;
    bool known;
};

struct story {
    const struct cup_site *site;
    FILE *out;
    struct pump_total *pumps;
    struct level_total *levels;
};

/* What each kind of event is in a sentence. */
static const char *const phrases[] = {
    [CUP_KIND_BOOT] = "begins",         [CUP_KIND_START] = "starts",
    [CUP_KIND_STOP] = "stops",          [CUP_KIND_BLOCK] = "may not start",
    [CUP_KIND_CLEAR] = "may run again", [CUP_KIND_TRIP] = "tripped",
    [CUP_KIND_LOCK] = "is locked",      [CUP_KIND_MODE] = "is switched",
    [CUP_KIND_SETTING] = "is set",      [CUP_KIND_QUALITY] = "is lost",
    [CUP_KIND_ALERT] = "alert",         [CUP_KIND_OVER] = "is over",
    [CUP_KIND_LEAK] = "may leak",
};
_Static_assert(sizeof(phrases) / sizeof(phrases[0]) == CUP_KIND_COUNT,
               "one phrase a kind");

struct story *story_open(const struct cup_site *site, FILE *out)
{
    struct story *story = calloc(1, sizeof(*story));
    if (!story)
        abort();
    story->site = site;
    story->out = out;
    story->pumps = calloc(site->plan->pump_count + 1u, sizeof(*story->pumps));
    story->levels =
        calloc(cup_pump_thing(site->plan, 0) + 1u, sizeof(*story->levels));
    if (!story->pumps || !story->levels)
        abort();
    return story;
}

void story_close(struct story *story)
{
    free(story->pumps);
    free(story->levels);
    free(story);
}

void story_time(FILE *out, uint64_t ms)
{
    uint64_t s = ms / 1000;
    if (s >= 86400)
        fprintf(out, "day %" PRIu64 " ", s / 86400 + 1);
    fprintf(out, "%02" PRIu64 ":%02" PRIu64 ":%02" PRIu64, s / 3600 % 24,
            s / 60 % 60, s % 60);
}

/* "4m 10s": a time that may be longer than a value holds. */
static const char *span_text(uint64_t ms, char *text, size_t size)
{
    if (ms <= INT32_MAX)
        cup_say_value(text, size, NULL, (int32_t)ms, CUP_UNIT_SECOND);
    else
        snprintf(text, size, "%" PRIu64 "d", ms / 86400000);
    return text;
}

const char *story_phrase(const struct cup_event *event)
{
    static const struct {
        uint8_t reason;
        const char *phrase;
    } others[] = {{CUP_REASON_READABLE, "is back"},
                  {CUP_REASON_LEAPT, "leaps"},
                  {CUP_REASON_BELIEVED, "is believed"},
                  {CUP_REASON_SEEN, "was looked into"}};
    for (size_t i = 0; i < sizeof(others) / sizeof(others[0]); i++)
        if (others[i].reason == event->cause.reason)
            return others[i].phrase;
    return phrases[event->kind];
}

static void tell(struct story *story, uint64_t at_ms,
                 const struct cup_event *event, const struct pump_total *pump)
{
    char why[CUP_SENTENCE_SIZE];
    char phrase[60];
    char ran[24];
    const struct cup_plan *plan = story->site->plan;
    cup_say_event(why, sizeof(why), plan, event);
    snprintf(phrase, sizeof(phrase), "%s", story_phrase(event));
    if (event->kind == CUP_KIND_STOP && pump)
        snprintf(phrase, sizeof(phrase), "stops after %s",
                 span_text(at_ms - pump->started_ms, ran, sizeof(ran)));
    story_time(story->out, at_ms);
    fprintf(story->out, "  %-12s %-20s %s\n", cup_thing_name(plan, event->of),
            phrase, why);
}

static void count_run(struct pump_total *pump, uint64_t at_ms)
{
    uint64_t ran = at_ms - pump->started_ms;
    pump->running = false;
    pump->ran_ms += ran;
    if (ran > pump->longest_ms)
        pump->longest_ms = ran;
}

/* A guard's stop is a block, too: it lasts until it clears. */
static void count(struct pump_total *pump, uint64_t at_ms,
                  const struct cup_event *event, bool guarded)
{
    bool block = event->kind == CUP_KIND_BLOCK ||
                 (event->kind == CUP_KIND_STOP && guarded);
    if (event->kind == CUP_KIND_START) {
        pump->starts++;
        pump->running = true;
        pump->started_ms = at_ms;
    }
    if (event->kind == CUP_KIND_STOP)
        count_run(pump, at_ms);
    if (block && !pump->blocked) {
        pump->blocks++;
        pump->blocked = true;
        pump->told_ms = at_ms;
    }
    if (event->kind == CUP_KIND_CLEAR && pump->blocked) {
        pump->blocked = false;
        pump->blocked_ms += at_ms - pump->told_ms;
    }
    pump->trips += event->kind == CUP_KIND_TRIP;
}

void story_event(struct story *story, uint64_t at_ms,
                 const struct cup_event *event)
{
    const struct cup_plan *plan = story->site->plan;
    cup_index first = cup_pump_thing(plan, 0);
    struct pump_total *pump = NULL;
    if (event->of != CUP_NONE && event->of >= first &&
        event->of - first < plan->pump_count)
        pump = &story->pumps[event->of - first];
    if (story->out)
        tell(story, at_ms, event, pump);
    first = cup_duty_thing(plan, 0);
    if (event->kind == CUP_KIND_TRIP && event->of != CUP_NONE &&
        event->of >= first && event->of - first < plan->duty_count)
        story->pumps[plan->duties[event->of - first].pump].unanswered++;
    if (pump)
        count(pump, at_ms, event,
              story->site->pumps[pump - story->pumps].no ==
                  event->cause.reason);
}

void story_look(struct story *story)
{
    cup_index count = cup_pump_thing(story->site->plan, 0);
    for (cup_index i = 0; i < count; i++) {
        struct cup_reading reading = cup_site_reading(story->site, i);
        struct level_total *level = &story->levels[i];
        if (!cup_usable(reading))
            continue;
        if (!level->known || reading.value < level->lowest)
            level->lowest = reading.value;
        if (!level->known || reading.value > level->highest)
            level->highest = reading.value;
        level->known = true;
    }
}

/* Adds to a text, which has room. */
__attribute__((format(printf, 3, 4))) static void add(char *text, size_t size,
                                                      const char *form, ...)
{
    va_list values;
    size_t used = strlen(text);
    va_start(values, form);
    vsnprintf(text + used, size - used, form, values);
    va_end(values);
}

void story_pump(const struct story *story, cup_index i, uint64_t span_ms,
                char *text, size_t size)
{
    char ran[24];
    char longest[24];
    char blocked[24];
    struct pump_total pump = story->pumps[i];
    if (pump.running)
        count_run(&pump, span_ms);
    if (pump.blocked)
        pump.blocked_ms += span_ms - pump.told_ms;
    *text = '\0';
    add(text, size, "%u start%s, ran %s, longest run %s", pump.starts,
        pump.starts == 1 ? "" : "s", span_text(pump.ran_ms, ran, sizeof(ran)),
        span_text(pump.longest_ms, longest, sizeof(longest)));
    if (pump.blocks > 0)
        add(text, size, ", blocked %u time%s for %s", pump.blocks,
            pump.blocks == 1 ? "" : "s",
            span_text(pump.blocked_ms, blocked, sizeof(blocked)));
    if (pump.unanswered > 0)
        add(text, size, ", not done %u time%s after its longest run",
            pump.unanswered, pump.unanswered == 1 ? "" : "s");
    if (pump.trips > 0)
        add(text, size, ", tripped %u time%s", pump.trips,
            pump.trips == 1 ? "" : "s");
}

static void pump_totals(const struct story *story, cup_index i,
                        uint64_t span_ms, FILE *out)
{
    char text[200];
    const struct cup_plan *plan = story->site->plan;
    story_pump(story, i, span_ms, text, sizeof(text));
    fprintf(out, "  %-12s %s\n", cup_thing_name(plan, cup_pump_thing(plan, i)),
            text);
}

static void level_totals(const struct story *story, cup_index i, FILE *out)
{
    char lowest[32];
    char highest[32];
    const struct cup_plan *plan = story->site->plan;
    const struct level_total *level = &story->levels[i];
    uint8_t unit = cup_thing_unit(plan, i);
    fprintf(out, "  %-12s ", cup_thing_name(plan, i));
    if (!level->known) {
        fprintf(out, "never had a good reading");
        return;
    }
    cup_say_value(lowest, sizeof(lowest), plan, level->lowest, unit);
    cup_say_value(highest, sizeof(highest), plan, level->highest, unit);
    fprintf(out, "%s to %s", lowest, highest);
    if (i >= plan->sensor_count && tank_holds(plan, i, 0) >= 0) {
        cup_say_value(lowest, sizeof(lowest), plan,
                      tank_holds(plan, i, level->lowest), CUP_UNIT_LITRE);
        cup_say_value(highest, sizeof(highest), plan,
                      tank_holds(plan, i, level->highest), CUP_UNIT_LITRE);
        fprintf(out, ", %s to %s", lowest, highest);
    }
}

static void reject_totals(const struct cup_tally_state *tally, FILE *out)
{
    const char *before = "; rejected: ";
    for (uint8_t i = 0; i < CUP_REJECTS; i++)
        if (tally->rejected[i] > 0) {
            fprintf(out, "%s%u %s", before, tally->rejected[i],
                    cup_reason_code((uint8_t)(i + 1)));
            before = ", ";
        }
}

void story_totals(struct story *story, uint64_t span_ms, FILE *out)
{
    const struct cup_plan *plan = story->site->plan;
    fprintf(out, "\nIn all\n");
    for (cup_index i = 0; i < plan->pump_count; i++)
        pump_totals(story, i, span_ms, out);
    for (cup_index i = 0; i < cup_pump_thing(plan, 0); i++) {
        level_totals(story, i, out);
        if (i < plan->sensor_count)
            reject_totals(&story->site->tallies[i], out);
        fputc('\n', out);
    }
}
