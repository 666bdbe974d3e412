#include "look_up.h"

#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "../../history/csv.h"
#include "../../history/read.h"

/* Of what was told, so much at once. */
#define TOLD_MOST 2000

/* The things of the site that were asked for. */
struct found {
    int64_t number;
    bool runs;
    char name[32];
    char unit[16];
};

struct looking {
    struct history *history;
    const struct records_ask *ask;
    int64_t site;
    struct found list[RECORDS_NAMES];
    size_t count;
    json_t *rows;
    FILE *out;
    const struct found *of;
    long lines;
    int64_t each_s; /* points of one thing are at least so far apart */
};

static void take_site(void *self, const struct history_site_row *row)
{
    struct looking *looking = self;
    if (strcmp(row->id, looking->ask->site) == 0)
        looking->site = row->site;
}

static bool is_asked(const struct looking *looking, const char *name)
{
    for (size_t i = 0; i < looking->ask->name_count; i++)
        if (strcmp(looking->ask->names[i], name) == 0)
            return true;
    return false;
}

static void take_thing(void *self, int64_t number,
                       const struct history_thing *thing)
{
    struct looking *looking = self;
    if (looking->count == RECORDS_NAMES || !is_asked(looking, thing->name) ||
        strcmp(thing->kind, "duty") == 0)
        return;
    struct found *found = &looking->list[looking->count++];
    found->number = number;
    found->runs = strcmp(thing->kind, "pump") == 0;
    snprintf(found->name, sizeof(found->name), "%.31s", thing->name);
    snprintf(found->unit, sizeof(found->unit), "%s",
             thing->unit ? thing->unit : "");
}

static json_t *number_or_null(double value)
{
    return isnan(value) ? json_null() : json_real(round(value * 1000) / 1000);
}

static json_t *text_or_null(const char *text)
{
    return text ? json_string(text) : json_null();
}

/* Levels */

/* Whether two rows are drawn as one: they begin within the same short span. */
static bool joins(const struct looking *looking, const json_t *last, int64_t at)
{
    int64_t begun = json_integer_value(json_array_get(last, 0));
    return last && looking->each_s > 60 &&
           begun / looking->each_s == at / looking->each_s;
}

static void widen(json_t *last, size_t at, double value, bool least)
{
    const json_t *old = json_array_get(last, at);
    double was = json_number_value(old);
    if (isnan(value))
        return;
    if (json_is_null(old) || (least ? value < was : value > was))
        json_array_set_new(last, at, number_or_null(value));
}

/* The mean of both, each as long as it was. */
static void weigh(json_t *last, const struct history_level *row)
{
    const json_t *old = json_array_get(last, 3);
    double was = json_number_value(old);
    double seconds = json_number_value(json_array_get(last, 1));
    if (isnan(row->mean))
        return;
    double mean = json_is_null(old)
                      ? row->mean
                      : (was * seconds + row->mean * row->seconds) /
                            (seconds + row->seconds);
    json_array_set_new(last, 3, number_or_null(mean));
}

/* [at, seconds, least, mean, most] */
static void take_level(void *self, const struct history_level *row)
{
    struct looking *looking = self;
    json_t *last =
        json_array_get(looking->rows, json_array_size(looking->rows) - 1);
    if (joins(looking, last, row->at)) {
        int64_t begun = json_integer_value(json_array_get(last, 0));
        weigh(last, row);
        json_array_set_new(last, 1,
                           json_integer(row->at + row->seconds - begun));
        widen(last, 2, row->least, true);
        widen(last, 4, row->most, false);
        return;
    }
    json_array_append_new(looking->rows,
                          json_pack("[I, i, o, o, o]", (json_int_t)row->at,
                                    row->seconds, number_or_null(row->least),
                                    number_or_null(row->mean),
                                    number_or_null(row->most)));
}

static void write_level(void *self, const struct history_level *row)
{
    struct looking *looking = self;
    char when[32];
    struct tm tm;
    time_t at = (time_t)row->at;
    if (isnan(row->mean) || ++looking->lines > RECORDS_LINES_MOST)
        return;
    strftime(when, sizeof(when), "%Y-%m-%dT%H:%M:%SZ", gmtime_r(&at, &tm));
    fprintf(looking->out, "%s,%d,", when, row->seconds);
    csv_text(looking->out, looking->of->name);
    fprintf(looking->out, ",%g,%g,%g,", row->least, row->mean, row->most);
    csv_text(looking->out, looking->of->unit);
    fputc('\n', looking->out);
}

/* [began, ended or null, litres, why it began, why it ended] */
static void take_run(void *self, const struct history_run_row *row)
{
    struct looking *looking = self;
    json_array_append_new(
        looking->rows,
        json_pack("[I, o, o, o, o]", (json_int_t)row->began,
                  row->ended ? json_integer(row->ended) : json_null(),
                  number_or_null(row->litres), text_or_null(row->began_why),
                  text_or_null(row->ended_why)));
}

static json_t *event_of(const char *of, const struct history_event *event)
{
    return json_pack("{s:I, s:s, s:s, s:o, s:o, s:o}", "at",
                     (json_int_t)event->at, "of", of, "kind", event->kind,
                     "reason", text_or_null(event->reason), "why",
                     text_or_null(event->why), "by", text_or_null(event->by));
}

/* What a chart marks: blocks and their ends, trips, alerts. */
static void take_told(void *self, const char *of,
                      const struct history_event *event)
{
    static const char *const kinds[] = {"block", "clear", "trip", "lock",
                                        "alert", "over",  "leak", "quality"};
    struct looking *looking = self;
    for (size_t i = 0; i < sizeof(kinds) / sizeof(kinds[0]); i++)
        if (strcmp(event->kind, kinds[i]) == 0 &&
            json_array_size(looking->rows) < TOLD_MOST)
            json_array_append_new(looking->rows, event_of(of, event));
}

static bool add_thing(struct looking *looking, const struct found *found,
                      struct history_span span, json_t *levels, json_t *runs)
{
    looking->rows = json_array();
    looking->of = found;
    if (found->runs) {
        json_object_set_new(runs, found->name, looking->rows);
        return history_runs(looking->history, found->number, span, take_run,
                            looking);
    }
    json_object_set_new(
        levels, found->name,
        json_pack("{s:s, s:o}", "unit", found->unit, "rows", looking->rows));
    return history_levels(looking->history, found->number, span, take_level,
                          looking);
}

static void look_at_levels(struct looking *looking, struct looked_up *answer)
{
    struct history_span span = {looking->ask->from, looking->ask->to};
    json_t *levels = json_object();
    json_t *runs = json_object();
    json_t *told = json_array();
    bool done = true;
    looking->each_s = (span.to - span.from) / looking->ask->most + 1;
    for (size_t i = 0; done && i < looking->count; i++)
        done = add_thing(looking, &looking->list[i], span, levels, runs);
    looking->rows = told;
    done = done && history_events(looking->history, looking->site, span,
                                  take_told, looking);
    answer->json = json_pack("{s:I, s:I, s:o, s:o, s:o}", "from",
                             (json_int_t)span.from, "to", (json_int_t)span.to,
                             "levels", levels, "runs", runs, "told", told);
    if (done)
        return;
    json_decref(answer->json);
    answer->json = NULL;
}

static void look_at_sheet(struct looking *looking, struct looked_up *answer)
{
    size_t size = 0;
    bool done = true;
    looking->out = open_memstream(&answer->text, &size);
    if (!looking->out)
        abort();
    fputs("at,seconds,name,least,mean,most,unit\n", looking->out);
    for (size_t i = 0;
         done && i < looking->count && looking->lines <= RECORDS_LINES_MOST;
         i++) {
        looking->of = &looking->list[i];
        if (!looking->of->runs)
            done = history_levels(
                looking->history, looking->of->number,
                (struct history_span){looking->ask->from, looking->ask->to},
                write_level, looking);
    }
    const bool too_many = looking->lines > RECORDS_LINES_MOST;
    if (fclose(looking->out) == 0 && done && !too_many)
        return;
    if (too_many)
        snprintf(answer->wrong, sizeof(answer->wrong),
                 "more than %d lines: ask for fewer names, or for a shorter "
                 "time",
                 RECORDS_LINES_MOST);
    free(answer->text);
    answer->text = NULL;
}

/* The log */

static void take_line(void *self, int64_t number, const char *of,
                      const struct history_event *event)
{
    struct looking *looking = self;
    json_t *json = event_of(of, event);
    json_object_set_new(json, "number", json_integer(number));
    json_array_append_new(looking->rows, json);
}

static void look_at_log(struct looking *looking, struct looked_up *answer)
{
    const struct history_log_ask ask = {
        .site = looking->site,
        .before = looking->ask->before,
        .of = looking->ask->name_count ? looking->ask->names[0] : NULL,
        .most = looking->ask->most};
    looking->rows = json_array();
    if (history_log(looking->history, &ask, take_line, looking))
        answer->json = json_pack("{s:o}", "events", looking->rows);
    else
        json_decref(looking->rows);
}

static void look_in(struct looking *looking, struct looked_up *answer)
{
    static void (*const looks[])(struct looking * looking,
                                 struct looked_up * answer) = {
        [RECORDS_LEVELS] = look_at_levels,
        [RECORDS_SHEET] = look_at_sheet,
        [RECORDS_LOG] = look_at_log};
    if (!history_sites(looking->history, take_site, looking) ||
        (looking->site &&
         !history_things(looking->history, looking->site, take_thing, looking)))
        return;
    looks[looking->ask->kind](looking, answer);
}

void look_up(const char *path, const struct records_ask *ask,
             struct looked_up *answer)
{
    struct looking looking = {.ask = ask};
    looking.history =
        history_open(path, HISTORY_READ, answer->wrong, sizeof(answer->wrong));
    if (!looking.history)
        return;
    look_in(&looking, answer);
    if (!answer->json && !answer->text && !*answer->wrong)
        snprintf(answer->wrong, sizeof(answer->wrong), "%.190s",
                 history_wrong(looking.history));
    history_close(looking.history);
}
