/* From JSON to rows. */
#include "taker.h"

#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "../../history/outbox.h"
#include "../../history/units.h"

/* The year 2020 begins; a count of 32 bits ends. */
#define CLOCK_LEAST_S INT64_C(1577836800)
#define CLOCK_MOST_S INT64_C(4294967295)

/* What came of a sensor by the controller's count, when it was heard last; what
 * came before the first time belongs to nobody. */
struct counts {
    bool known;
    uint32_t samples;
    uint32_t rejects;
};

struct taker {
    struct history *history;
    struct gather *gather; /* null: it has not said who it is */
    int64_t site;
    char id[64];
    struct history_seen seen;
    struct counts *counts; /* by the gather's places */
    size_t count;
    bool sends;
};

static const char *text_of(const json_t *json, const char *key)
{
    return json_string_value(json_object_get(json, key));
}

static double number_of(const json_t *json, const char *key, double otherwise)
{
    const json_t *value = json_object_get(json, key);
    return json_is_number(value) ? json_number_value(value) : otherwise;
}

bool taker_has_time(const json_t *json)
{
    const json_t *utc = json_object_get(json, "utc");
    int64_t at = json_is_integer(utc) ? json_integer_value(utc) : 0;
    return at >= CLOCK_LEAST_S && at <= CLOCK_MOST_S;
}

/* Moments of a controller without a clock, or with none that can be, are those
 * at which they were heard. */
static int64_t moment_of(const json_t *json, int64_t now)
{
    return taker_has_time(json)
               ? json_integer_value(json_object_get(json, "utc"))
               : now;
}

struct taker *taker_open(struct history *history)
{
    struct taker *taker = calloc(1, sizeof(*taker));
    if (!taker)
        abort();
    taker->history = history;
    return taker;
}

void taker_sends(struct taker *taker)
{
    taker->sends = true;
}

void taker_close(struct taker *taker)
{
    if (!taker)
        return;
    gather_close(taker->gather);
    free(taker->counts);
    free(taker);
}

/* Sites */

static bool take_thing(const struct taker *taker, const json_t *json)
{
    const struct history_thing thing = {
        .name = text_of(json, "name"),
        .kind = text_of(json, "kind"),
        .unit = text_of(json, "unit"),
        .pump = text_of(json, "pump"),
        .keep = text_of(json, "keep"),
        .start = number_of(json, "start", NAN),
        .stop = number_of(json, "stop", NAN),
        .flow = number_of(json, "flow", 0),
        .steps = history_steps_of(history_unit(text_of(json, "unit")))};
    return !thing.name || !thing.kind || gather_thing(taker->gather, &thing);
}

static bool take_site(struct taker *taker, const json_t *site)
{
    const char *id = text_of(site, "id");
    const char *name = text_of(site, "name");
    const char *run = text_of(site, "run");
    const char *units = text_of(site, "units");
    const json_t *things = json_object_get(site, "things");
    bool done = taker_gone(taker);
    gather_close(taker->gather);
    taker->gather = NULL;
    if (!id || !name)
        return done; /* it is none of ours */
    snprintf(taker->id, sizeof(taker->id), "%s", id);
    taker->site = history_site(taker->history, id, name, text_of(site, "zone"),
                               units && strcmp(units, "us") == 0);
    if (taker->site == 0)
        return false;
    taker->seen = history_seen(taker->history, taker->site);
    snprintf(taker->seen.run, sizeof(taker->seen.run), "%s", run ? run : "");
    taker->gather = gather_open(taker->history, taker->site);
    for (size_t i = 0; done && i < json_array_size(things); i++)
        done = take_thing(taker, json_array_get(things, i));
    taker->count = json_array_size(things);
    free(taker->counts);
    taker->counts = calloc(taker->count + 1, sizeof(*taker->counts));
    if (!taker->counts)
        abort();
    return done;
}

/* Levels */

/* What came since; a controller that began anew counts anew. */
static uint32_t since(bool known, uint32_t *last, double count)
{
    uint32_t before = *last;
    *last = count > 0 && count < UINT32_MAX ? (uint32_t)count : 0;
    if (!known)
        return 0;
    return *last >= before ? *last - before : *last;
}

static bool take_level(struct taker *taker, const char *name,
                       const json_t *json, int64_t at)
{
    size_t which = gather_find(taker->gather, name);
    const char *quality = text_of(json, "quality");
    if (which >= taker->count || !quality)
        return true;
    struct counts *counts = &taker->counts[which];
    const struct gather_level level = {
        .value = number_of(json, "value", NAN),
        .quality = quality,
        .samples = since(counts->known, &counts->samples,
                         number_of(json, "samples", 0)),
        .rejects = since(counts->known, &counts->rejects,
                         number_of(json, "rejects", 0))};
    counts->known = true;
    return gather_level(taker->gather, which, at, &level);
}

static bool take_now(struct taker *taker, const json_t *now, int64_t heard)
{
    const char *name;
    json_t *level;
    int64_t at = moment_of(now, heard);
    bool done = true;
    json_object_foreach(json_object_get(now, "levels"), name, level) done =
        take_level(taker, name, level, at) && done;
    return gather_until(taker->gather, at) && done;
}

/* Events */

static bool put_out(const struct taker *taker, const json_t *json)
{
    if (!taker->sends)
        return true;
    json_t *event = json_copy((json_t *)json);
    json_object_set_new(event, "run", json_string(taker->seen.run));
    char *text = json_dumps(event, JSON_COMPACT | JSON_REAL_PRECISION(10));
    json_decref(event);
    if (!text)
        abort();
    bool done = outbox_put(taker->history, taker->id, taker->seen.number, text);
    free(text);
    return done;
}

static bool take_event(struct taker *taker, const json_t *json, int64_t heard)
{
    const struct gather_event event = {
        .at = moment_of(json, heard),
        .ms = (uint32_t)json_integer_value(json_object_get(json, "t_ms")),
        .kind = text_of(json, "kind"),
        .of = text_of(json, "of"),
        .duty = text_of(json, "duty"),
        .reason = text_of(json, "reason"),
        .value = number_of(json, "value", NAN),
        .mark = number_of(json, "limit", NAN),
        .unit = text_of(json, "unit"),
        .why = text_of(json, "why"),
        .by = text_of(json, "by")};
    const json_t *number = json_object_get(json, "number");
    if (!event.kind || !event.reason || !json_is_integer(number))
        return true;
    taker->seen.number = json_integer_value(number);
    return gather_event(taker->gather, &event) && put_out(taker, json) &&
           history_note_seen(taker->history, taker->site, &taker->seen);
}

/* Of cuplatch-serve itself: the controller knows nothing of it. */
static bool take_refusal(const struct taker *taker, const json_t *json,
                         int64_t heard)
{
    const struct gather_event event = {.at = heard,
                                       .kind = "refuse",
                                       .reason = text_of(json, "reason"),
                                       .value = NAN,
                                       .mark = NAN,
                                       .why = text_of(json, "why"),
                                       .by = text_of(json, "by")};
    return !event.reason || gather_event(taker->gather, &event);
}

bool taker_line(struct taker *taker, const json_t *line, int64_t now)
{
    const json_t *site = json_object_get(line, "site");
    const json_t *levels = json_object_get(line, "now");
    const json_t *event = json_object_get(line, "event");
    const json_t *refused = json_object_get(line, "refused");
    if (site)
        return take_site(taker, site);
    if (!taker->gather)
        return true;
    if (levels)
        return take_now(taker, levels, now);
    if (refused)
        return take_refusal(taker, refused, now);
    return !event || take_event(taker, event, now);
}

bool taker_save(const struct taker *taker)
{
    return !taker->gather || gather_save(taker->gather);
}

bool taker_gone(struct taker *taker)
{
    return !taker->gather || gather_gap(taker->gather);
}

bool taker_seen(const struct taker *taker, char *id, size_t size,
                struct history_seen *seen)
{
    if (!taker->gather)
        return false;
    snprintf(id, size, "%s", taker->id);
    *seen = taker->seen;
    return true;
}
