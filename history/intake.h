/* What is heard of a site, made into rows of a history: levels into minutes
 * that are alike, starts and stops into runs. No row is written but by intake_
 * calls, so that who calls has the transaction. */
#ifndef CUPLATCH_HISTORY_INTAKE_H
#define CUPLATCH_HISTORY_INTAKE_H

#include "history.h"

struct intake;

/* For a site by its row's number. It aborts where there is no memory. */
struct intake *intake_open(struct history *history, int64_t site);
void intake_close(struct intake *intake);

/* Adds a thing, or what changed of it. False when it could not be written. */
bool intake_thing(struct intake *intake, const struct history_thing *thing);

/* The place of a thing among those added; SIZE_MAX when it is none. */
size_t intake_find(const struct intake *intake, const char *name);

/* What a sensor or tank says from a time (UTC) on. `quality` good, held or
 * lost; the value counts unless it is lost. `samples` and `rejects` came since
 * the call before. */
struct intake_level {
    double value;
    const char *quality;
    uint32_t samples;
    uint32_t rejects;
};
bool intake_level(struct intake *intake, size_t which, int64_t at,
                  const struct intake_level *level);

/* What was said last of each holds until then, for three days at the most. */
bool intake_until(struct intake *intake, int64_t at);

/* Writes what is in the making, too, up to the last whole minute. */
bool intake_save(const struct intake *intake);

/* Nothing is known from now on, until something is said again. */
bool intake_gap(struct intake *intake);

/* An event, in the order in which they happened. `ms` is the site's own time,
 * which wraps, for the length of runs. */
struct intake_event {
    int64_t at;
    uint32_t ms;
    const char *kind;
    const char *of;
    const char *duty; /* of a start: whose run it is; null: nobody's */
    const char *reason;
    double value;
    double mark;
    const char *unit;
    const char *why;
    const char *by;
};
bool intake_event(struct intake *intake, const struct intake_event *event);

#endif
