/* Old minutes become hours, and a file that grows too large loses its oldest.
 */
#include <sqlite3.h>
#include <stdio.h>

#include "inside.h"
#include "outbox.h"

#define DAY_MINUTES 1440
#define HOUR_MINUTES 60

/* Rows of minutes never cross an hour. */
static const char fold_sql[] =
    "INSERT OR REPLACE INTO hours SELECT thing, minute / 60, sum(minutes),"
    " min(least), CAST(round(1.0 * sum(mean * minutes) /"
    " sum(CASE WHEN mean IS NULL THEN 0 ELSE minutes END)) AS INTEGER),"
    " max(most), quality, sum(samples), sum(rejects) FROM minutes"
    " WHERE thing = %lld AND minute < %lld GROUP BY minute / 60;"
    "DELETE FROM minutes WHERE thing = %lld AND minute < %lld";

static int64_t number_of(struct history *history, const char *sql,
                         int64_t otherwise)
{
    sqlite3_stmt *statement = NULL;
    int64_t number = otherwise;
    history->code =
        sqlite3_prepare_v2(history->file, sql, -1, &statement, NULL);
    if (history->code == SQLITE_OK)
        history->code = sqlite3_step(statement);
    if (history->code == SQLITE_ROW &&
        sqlite3_column_type(statement, 0) != SQLITE_NULL)
        number = sqlite3_column_int64(statement, 0);
    if (history->code == SQLITE_ROW || history->code == SQLITE_DONE)
        history->code = SQLITE_OK;
    int code = history->code;
    sqlite3_finalize(statement);
    history->code = code;
    return number;
}

static int64_t last_thing(struct history *history)
{
    return number_of(history, "SELECT max(thing) FROM things", 0);
}

static int64_t first_minute(struct history *history, int64_t thing)
{
    char sql[100];
    snprintf(sql, sizeof(sql),
             "SELECT min(minute) FROM minutes WHERE thing = %lld",
             (long long)thing);
    return number_of(history, sql, INT64_MAX);
}

static bool fold_thing(struct history *history, int64_t thing, int64_t before,
                       bool *more)
{
    char sql[800];
    int64_t to = first_minute(history, thing);
    if (history->code != SQLITE_OK)
        return false;
    if (to >= before)
        return true;
    to = (to / HOUR_MINUTES) * HOUR_MINUTES + DAY_MINUTES;
    *more |= to < before;
    to = to < before ? to : before;
    snprintf(sql, sizeof(sql), fold_sql, (long long)thing, (long long)to,
             (long long)thing, (long long)to);
    return history_do(history, sql);
}

/* The oldest day of all minutes; false when there is none left. */
static bool drop_day(struct history *history)
{
    char sql[100];
    int64_t oldest = INT64_MAX;
    int64_t things = last_thing(history);
    for (int64_t thing = 1; thing <= things; thing++) {
        int64_t first = first_minute(history, thing);
        oldest = first < oldest ? first : oldest;
    }
    if (oldest == INT64_MAX || history->code != SQLITE_OK)
        return false;
    int64_t to = oldest + DAY_MINUTES;
    for (int64_t thing = 1; thing <= things; thing++) {
        snprintf(sql, sizeof(sql),
                 "DELETE FROM minutes WHERE thing = %lld AND minute < %lld",
                 (long long)thing, (long long)to);
        if (!history_do(history, sql))
            return false;
    }
    return true;
}

/* What is free within the file does not count: it is used again. */
static int64_t bytes_of(struct history *history)
{
    int64_t pages = number_of(history, "PRAGMA page_count", 0) -
                    number_of(history, "PRAGMA freelist_count", 0);
    return pages * number_of(history, "PRAGMA page_size", 0);
}

bool history_fold(struct history *history, int64_t before, int64_t at_most,
                  bool *more)
{
    int64_t minute = before / 3600 * HOUR_MINUTES;
    int64_t things = last_thing(history);
    bool done = history_begin(history);
    *more = false;
    for (int64_t thing = 1; done && thing <= things; thing++)
        done = fold_thing(history, thing, minute, more);
    if (done && at_most > 0 && bytes_of(history) > at_most)
        *more |= drop_day(history);
    done = done && history->code == SQLITE_OK && outbox_tidy(history) &&
           history_commit(history);
    if (!done)
        history_roll_back(history);
    return done;
}
