/* Rows of a history, added up. */
#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "report.h"

/* What is being added up, and for which of a list's things. */
struct adding {
    struct report *report;
    struct report_level *level;
    struct report_pump *pump;
    struct report_duty *duty;
    double sum;          /* of a level, over the time that it was known */
    double halves[2][4]; /* samples, rejects, restless and its seconds */
};

static void copy(char *to, size_t size, const char *from)
{
    snprintf(to, size, "%s", from ? from : "");
}

/* Room for one more; the lists are short. */
static void *one_more(void *list, size_t *count, size_t size)
{
    char *more = realloc(list, (*count + 1) * size);
    if (!more)
        abort();
    memset(more + *count * size, 0, size);
    ++*count;
    return more;
}

static void add_level(struct report *report, int64_t number,
                      const struct history_thing *thing)
{
    report->levels =
        one_more(report->levels, &report->level_count, sizeof(*report->levels));
    struct report_level *level = &report->levels[report->level_count - 1];
    copy(level->name, sizeof(level->name), thing->name);
    copy(level->unit, sizeof(level->unit), thing->unit);
    level->number = number;
    level->tank = strcmp(thing->kind, "tank") == 0;
    level->least = level->mean = level->most = NAN;
}

static void add_pump(struct report *report, int64_t number,
                     const struct history_thing *thing)
{
    report->pumps =
        one_more(report->pumps, &report->pump_count, sizeof(*report->pumps));
    struct report_pump *pump = &report->pumps[report->pump_count - 1];
    copy(pump->name, sizeof(pump->name), thing->name);
    pump->number = number;
    pump->litres = thing->flow > 0 ? 0 : NAN;
}

static void add_duty(struct report *report, int64_t number,
                     const struct history_thing *thing)
{
    report->duties =
        one_more(report->duties, &report->duty_count, sizeof(*report->duties));
    struct report_duty *duty = &report->duties[report->duty_count - 1];
    copy(duty->name, sizeof(duty->name), thing->name);
    duty->number = number;
    copy(duty->pump, sizeof(duty->pump), thing->pump);
    copy(duty->keep, sizeof(duty->keep), thing->keep);
    duty->start = thing->start;
    duty->stop = thing->stop;
}

static void add_thing(void *self, int64_t number,
                      const struct history_thing *thing)
{
    struct report *report = self;
    if (strcmp(thing->kind, "sensor") == 0 || strcmp(thing->kind, "tank") == 0)
        add_level(report, number, thing);
    else if (strcmp(thing->kind, "pump") == 0)
        add_pump(report, number, thing);
    else if (strcmp(thing->kind, "duty") == 0)
        add_duty(report, number, thing);
}

/* Levels */

/* The part of a row that is within the span. */
static double seconds_of(const struct report *report,
                         const struct history_level *row)
{
    int64_t from = row->at > report->span.from ? row->at : report->span.from;
    int64_t to = row->at + row->seconds;
    to = to < report->span.to ? to : report->span.to;
    return to > from ? (double)(to - from) : 0;
}

static void add_row(void *self, const struct history_level *row)
{
    struct adding *adding = self;
    struct report_level *level = adding->level;
    double seconds = seconds_of(adding->report, row);
    double *half =
        adding->halves[(row->at - adding->report->span.from) * 2 >=
                       adding->report->span.to - adding->report->span.from];
    level->samples += row->samples;
    level->rejects += row->rejects;
    half[0] += row->samples;
    half[1] += row->rejects;
    if (isnan(row->mean)) {
        level->lost_s += seconds;
        return;
    }
    level->known_s += seconds;
    if (strcmp(row->quality, "held") == 0)
        level->held_s += seconds;
    adding->sum += seconds * row->mean;
    half[2] += seconds * (row->most - row->least);
    half[3] += seconds;
    level->least = fmin(level->least, row->least); /* NAN is no number to it */
    level->most = fmax(level->most, row->most);
}

static bool add_levels(struct report *report, struct history *history)
{
    for (size_t i = 0; i < report->level_count; i++) {
        struct report_level *level = &report->levels[i];
        struct adding adding = {.report = report, .level = level};
        if (!history_levels(history, level->number, report->span, add_row,
                            &adding))
            return false;
        if (level->known_s > 0)
            level->mean = adding.sum / level->known_s;
        for (int h = 0; h < 2; h++) {
            const double *half = adding.halves[h];
            level->share[h] = half[0] > 0 ? half[1] / half[0] : NAN;
            level->restless[h] = half[3] > 0 ? half[2] / half[3] : NAN;
        }
    }
    return true;
}

/* Duties */

/* Up to either mark it is where it is wanted. */
static void add_kept(void *self, const struct history_level *row)
{
    const struct adding *adding = self;
    struct report_duty *duty = adding->duty;
    double seconds = seconds_of(adding->report, row);
    double low = fmin(duty->start, duty->stop);
    double high = fmax(duty->start, duty->stop);
    if (isnan(row->mean))
        duty->unknown_s += seconds;
    else if (row->mean < low)
        duty->below_s += seconds;
    else if (row->mean > high)
        duty->above_s += seconds;
    else
        duty->in_s += seconds;
}

const struct report_level *report_level_of(const struct report *report,
                                           const char *name)
{
    for (size_t i = 0; i < report->level_count; i++)
        if (strcmp(report->levels[i].name, name) == 0)
            return &report->levels[i];
    return NULL;
}

const struct report_pump *report_pump_of(const struct report *report,
                                         const char *name)
{
    for (size_t i = 0; i < report->pump_count; i++)
        if (strcmp(report->pumps[i].name, name) == 0)
            return &report->pumps[i];
    return NULL;
}

static bool add_duties(struct report *report, struct history *history)
{
    for (size_t i = 0; i < report->duty_count; i++) {
        struct report_duty *duty = &report->duties[i];
        const struct report_level *level = report_level_of(report, duty->keep);
        struct adding adding = {.report = report, .duty = duty};
        if (level && !history_levels(history, level->number, report->span,
                                     add_kept, &adding))
            return false;
    }
    return true;
}

/* Pumps */

static void add_to_duty(const struct report *report,
                        const struct history_run_row *row)
{
    for (size_t i = 0; i < report->duty_count; i++) {
        struct report_duty *duty = &report->duties[i];
        if (duty->number != row->duty)
            continue;
        duty->runs++;
        if (isnan(row->seconds))
            return;
        duty->seconds += row->seconds;
        duty->longest_s = fmax(duty->longest_s, row->seconds);
        duty->litres += row->litres; /* NAN stays NAN */
        return;
    }
}

static void add_run(void *self, const struct history_run_row *row)
{
    struct report_pump *pump = ((struct adding *)self)->pump;
    add_to_duty(((struct adding *)self)->report, row);
    pump->starts++;
    if (isnan(row->seconds)) {
        pump->unknown++;
        return;
    }
    pump->seconds += row->seconds;
    pump->longest_s = fmax(pump->longest_s, row->seconds);
    if (!isnan(row->litres))
        pump->litres += row->litres;
}

static bool add_runs(struct report *report, struct history *history)
{
    for (size_t i = 0; i < report->pump_count; i++) {
        struct report_pump *pump = &report->pumps[i];
        struct adding adding = {.report = report, .pump = pump};
        if (!history_runs(history, pump->number, report->span, add_run,
                          &adding))
            return false;
    }
    return true;
}

/* Events */

/* A pump that is kept off, until when. */
struct block {
    int64_t since;
    struct report_reason *reason; /* null: it is not */
};

struct telling {
    struct report *report;
    struct block *blocks; /* of each pump */
};

static struct report_reason *note(struct report_reasons *reasons,
                                  const struct history_event *event)
{
    size_t i = 0;
    while (i < reasons->count &&
           strcmp(reasons->list[i].code, event->reason) != 0)
        i++;
    if (i == REPORT_REASONS)
        return NULL;
    if (i == reasons->count)
        copy(reasons->list[reasons->count++].code, REPORT_NAME, event->reason);
    copy(reasons->list[i].why, REPORT_WHY, event->why);
    reasons->list[i].times++;
    return &reasons->list[i];
}

static void end_block(struct block *block, int64_t at)
{
    if (block->reason)
        block->reason->seconds += (double)(at - block->since);
    block->reason = NULL;
}

static void take_pump_event(const struct telling *telling, size_t i,
                            const struct history_event *event)
{
    struct report_pump *pump = &telling->report->pumps[i];
    struct block *block = &telling->blocks[i];
    if (strcmp(event->kind, "block") == 0) {
        end_block(block, event->at);
        *block = (struct block){event->at, note(&pump->blocks, event)};
    } else if (strcmp(event->kind, "clear") == 0 ||
               strcmp(event->kind, "start") == 0)
        end_block(block, event->at);
    else if (strcmp(event->kind, "trip") == 0)
        note(&pump->trips, event);
}

static void take_leap(struct report *report, const char *of,
                      const struct history_event *event)
{
    bool leapt = strcmp(event->reason, "leapt") == 0;
    if (!leapt && strcmp(event->reason, "believed") != 0)
        return;
    for (size_t i = 0; i < report->level_count; i++) {
        struct report_level *level = &report->levels[i];
        if (strcmp(level->name, of) != 0)
            continue;
        level->leaps += leapt;
        level->believed += !leapt;
        if (leapt)
            copy(level->leapt, sizeof(level->leapt), event->why);
    }
}

static void take_event(void *self, const char *of,
                       const struct history_event *event)
{
    const struct telling *telling = self;
    struct report *report = telling->report;
    report->alerts += strcmp(event->kind, "alert") == 0;
    report->leaks += strcmp(event->kind, "leak") == 0;
    if (strcmp(event->kind, "boot") == 0)
        report->starts++;
    if (strcmp(event->kind, "quality") == 0)
        take_leap(report, of, event);
    for (size_t i = 0; i < report->pump_count; i++)
        if (strcmp(report->pumps[i].name, of) == 0)
            take_pump_event(telling, i, event);
    for (size_t i = 0; i < report->duty_count; i++)
        if (strcmp(event->kind, "trip") == 0 &&
            strcmp(report->duties[i].name, of) == 0)
            note(&report->duties[i].trips, event);
}

static bool add_events(struct report *report, struct history *history)
{
    struct telling telling = {
        report, calloc(report->pump_count + 1, sizeof(struct block))};
    if (!telling.blocks)
        abort();
    bool done = history_events(history, report->site, report->span, take_event,
                               &telling);
    for (size_t i = 0; i < report->pump_count; i++)
        end_block(&telling.blocks[i], report->span.to);
    free(telling.blocks);
    return done;
}

bool report_make(struct report *report, struct history *history,
                 const struct history_site_row *site, struct history_span span)
{
    *report = (struct report){.site = site->site, .us = site->us, .span = span};
    copy(report->name, sizeof(report->name), site->name);
    return history_things(history, site->site, add_thing, report) &&
           add_levels(report, history) && add_duties(report, history) &&
           add_runs(report, history) && add_events(report, history);
}

void report_free(struct report *report)
{
    free(report->duties);
    free(report->pumps);
    free(report->levels);
    *report = (struct report){.site = 0};
}
