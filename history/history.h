/* What happened, in one SQLite file: levels by minute and hour, runs, events,
 * changes of settings; of one site or of several. Tables and columns are in
 * docs/reference/history.md. Times are UTC, in s since the year 1970 began. */
#ifndef CUPLATCH_HISTORY_HISTORY_H
#define CUPLATCH_HISTORY_HISTORY_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

/* What the file says it is, and its version. */
#define HISTORY_MARK 0x43554c48
#define HISTORY_VERSION 3

struct history;

/* READ: nothing is changed, and the file must be there. WRITE: made if need be,
 * older versions are brought forward in a transaction; what is no history any
 * more is set aside beside it, and another begun. */
enum history_how { HISTORY_READ, HISTORY_WRITE };

/* Opens it. Null, and `said` (of `size` bytes) says why; otherwise `said` is
 * empty, or what had to be done. */
struct history *history_open(const char *path, enum history_how how, char *said,
                             size_t size);
/* Sets a file aside that turned out to be broken while it was open; it is
 * closed by then. False, and `said` says why; else `said` is what was done. */
bool history_set_aside(const char *path, char *said, size_t size);

void history_close(struct history *history);

/* What went wrong last, for people; and whether the file itself is broken, or
 * the disk full. */
const char *history_wrong(const struct history *history);
bool history_is_broken(const struct history *history);

/* Everything below is false (or 0, of what is numbered) when it could not be
 * done. Between begin and commit nothing is on the disk. */
bool history_begin(struct history *history);
bool history_commit(struct history *history);
void history_roll_back(struct history *history);

/* A site, by its id. */
int64_t history_site(struct history *history, const char *id, const char *name,
                     const char *zone, bool us);

/* A thing of a site.
 *   kind   sensor, tank, pump, duty, alert ...
 *   unit   its symbol, or null; `steps` of a unit are what levels are kept in
 *   pump, keep, start, stop  of a duty; marks are NAN where there are none
 *   flow   of a pump, in L/min; 0: not known */
struct history_thing {
    const char *name;
    const char *kind;
    const char *unit;
    const char *pump;
    const char *keep;
    double start;
    double stop;
    double flow;
    int steps;
};
int64_t history_thing(struct history *history, int64_t site,
                      const struct history_thing *thing);

/* Minutes of a thing that are alike: from `minute` (UTC / 60) on, so many of
 * them. Levels are in steps of the thing's unit; `known` is false where none
 * was good in all of them. */
struct history_minutes {
    int64_t thing;
    int64_t minute;
    int minutes;
    bool known;
    int32_t least, mean, most;
    const char *quality; /* the last */
    uint32_t samples, rejects;
};
bool history_minutes(struct history *history,
                     const struct history_minutes *row);

/* The minute after the last that a thing has a row for; 0: it has none. */
int64_t history_minute_after(struct history *history, int64_t thing);

/* A run of a pump begins, and ends; reasons are codes.
 *   duty  whose it is; 0: nobody's
 *   ms    the site's own time, which wraps */
struct history_begun {
    int64_t pump;
    int64_t duty;
    int64_t at;
    uint32_t ms;
    const char *reason;
    const char *why;
};
int64_t history_run(struct history *history, const struct history_begun *run);
bool history_run_end(struct history *history, int64_t run, int64_t at,
                     double seconds, double litres, const char *reason,
                     const char *why);

/* The last run of a pump if it has no end yet, and when it began by the site's
 * own time; 0: there is none. */
int64_t history_run_open(struct history *history, int64_t pump, uint32_t *ms);

/* An event; `thing` 0 is the site itself. `value` and `mark` are NAN where
 * there are none; other texts than kind and reason may be null. */
struct history_event {
    int64_t site;
    int64_t thing;
    int64_t at;
    const char *kind;
    const char *reason;
    double value;
    double mark;
    const char *unit;
    const char *why;
    const char *by;
};
bool history_event(struct history *history, const struct history_event *event);

/* How far a site's events are kept: the run of its controller and the number of
 * the last; an empty run and -1 where there is none. */
struct history_seen {
    char run[33];
    int64_t number;
};
bool history_note_seen(struct history *history, int64_t site,
                       const struct history_seen *seen);
struct history_seen history_seen(struct history *history, int64_t site);

/* A setting was changed. */
bool history_change(struct history *history, int64_t thing, int64_t at,
                    const char *why, const char *by);

/* Folds minutes that are older into hours, a day of them at the most; `more` is
 * whether there is more to fold. Then, as long as the file is larger than
 * `at_most` bytes (0: never), the oldest minutes go. */
bool history_fold(struct history *history, int64_t before, int64_t at_most,
                  bool *more);

/* The connection, for those who read: an sqlite3. */
struct sqlite3 *history_file(const struct history *history);

#endif
