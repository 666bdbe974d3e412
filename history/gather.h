/* What is heard of a site, made into rows of a history: levels into minutes
 * that are alike, starts and stops into runs. No row is written but by gather_
 * calls, so that who calls has the transaction. */
#ifndef CUPLATCH_HISTORY_GATHER_H
#define CUPLATCH_HISTORY_GATHER_H

#include "history.h"

struct gather;

/* For a site by its row's number. It aborts where there is no memory. */
struct gather *gather_open(struct history *history, int64_t site);
void gather_close(struct gather *gather);

/* Adds a thing, or what changed of it. False when it could not be written. */
bool gather_thing(struct gather *gather, const struct history_thing *thing);

/* The place of a thing among those added; SIZE_MAX when it is none. */
size_t gather_find(const struct gather *gather, const char *name);

/* What a sensor or tank says from a time (UTC) on. `quality` good, held or
 * lost; the value counts unless it is lost. `samples` and `rejects` came since
 * the call before. */
struct gather_level {
    double value;
    const char *quality;
    uint32_t samples;
    uint32_t rejects;
};
bool gather_level(struct gather *gather, size_t which, int64_t at,
                  const struct gather_level *level);

/* What was said last of each holds until then, for three days at the most. */
bool gather_until(struct gather *gather, int64_t at);

/* Writes what is in the making, too, up to the last whole minute. */
bool gather_save(const struct gather *gather);

/* Nothing is known from now on, until something is said again. */
bool gather_gap(struct gather *gather);

/* An event, in the order in which they happened. `ms` is the site's own time,
 * which wraps, for the length of runs. */
struct gather_event {
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
bool gather_event(struct gather *gather, const struct gather_event *event);

#endif
