/* What a history holds, for those who report it. Rows are handed to a function,
 * whose texts are gone after the call. Everything is false when it could not be
 * read; history_wrong() says why. */
#ifndef CUPLATCH_HISTORY_READ_H
#define CUPLATCH_HISTORY_READ_H

#include "history.h"

/* A span of time, UTC: from `from` up to, and without, `to`. */
struct history_span {
    int64_t from;
    int64_t to;
};

struct history_site_row {
    int64_t site;
    const char *id;
    const char *name;
    const char *zone; /* or null */
    bool us;
};
bool history_sites(struct history *history,
                   void (*take)(void *self, const struct history_site_row *row),
                   void *self);

/* From the first to the last that is known of a site; both 0: nothing. */
bool history_whole(struct history *history, int64_t site,
                   struct history_span *span);

/* In the order in which they stand in the site file. */
bool history_things(struct history *history, int64_t site,
                    void (*take)(void *self, int64_t number,
                                 const struct history_thing *thing),
                    void *self);

/* Levels in the thing's unit, in order; NAN where none was good. `at` may be
 * before the span, by less than an hour. */
struct history_level {
    int64_t at;
    int seconds;
    double least, mean, most;
    const char *quality;
    uint32_t samples, rejects;
};
bool history_levels(struct history *history, int64_t thing,
                    struct history_span span,
                    void (*take)(void *self, const struct history_level *row),
                    void *self);

/* Runs that began within it; `ended` 0 and `seconds` NAN: not known, or still
 * under way. */
struct history_run_row {
    int64_t duty; /* 0: nobody's */
    int64_t began, ended;
    double seconds, litres;
    const char *began_by, *ended_by;
    const char *began_why, *ended_why;
};
bool history_runs(struct history *history, int64_t thing,
                  struct history_span span,
                  void (*take)(void *self, const struct history_run_row *row),
                  void *self);

/* Events of a site, in order; `of` is the thing's name, or "site". */
bool history_events(struct history *history, int64_t site,
                    struct history_span span,
                    void (*take)(void *self, const char *of,
                                 const struct history_event *event),
                    void *self);

/* The newest first, `most` of them: before the event of a number, 0 from the
 * last on; of the thing of a name, "site" among them, or of all where it is
 * null. */
struct history_log_ask {
    int64_t site;
    int64_t before;
    const char *of;
    int most;
};
bool history_log(struct history *history, const struct history_log_ask *ask,
                 void (*take)(void *self, int64_t number, const char *of,
                              const struct history_event *event),
                 void *self);

#endif
