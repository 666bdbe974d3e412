/* Queries. */
#include "read.h"

#include <math.h>
#include <sqlite3.h>

#include "inside.h"

static sqlite3_stmt *ask(struct history *history, const char *sql)
{
    sqlite3_stmt *statement = NULL;
    history->code =
        sqlite3_prepare_v2(history->file, sql, -1, &statement, NULL);
    return statement;
}

static sqlite3_stmt *ask_span(struct history *history, const char *sql,
                              int64_t of, struct history_span span)
{
    sqlite3_stmt *statement = ask(history, sql);
    if (!statement)
        return NULL;
    sqlite3_bind_int64(statement, 1, of);
    sqlite3_bind_int64(statement, 2, span.from);
    sqlite3_bind_int64(statement, 3, span.to);
    return statement;
}

static bool next(struct history *history, sqlite3_stmt *statement)
{
    if (!statement)
        return false;
    history->code = sqlite3_step(statement);
    return history->code == SQLITE_ROW;
}

static bool end(struct history *history, sqlite3_stmt *statement)
{
    int code = history->code;
    sqlite3_finalize(statement);
    history->code = code == SQLITE_DONE ? SQLITE_OK : code;
    return history->code == SQLITE_OK;
}

static const char *text_at(sqlite3_stmt *statement, int at)
{
    return (const char *)sqlite3_column_text(statement, at);
}

static double real_at(sqlite3_stmt *statement, int at)
{
    return sqlite3_column_type(statement, at) == SQLITE_NULL
               ? NAN
               : sqlite3_column_double(statement, at);
}

bool history_sites(struct history *history,
                   void (*take)(void *self, const struct history_site_row *row),
                   void *self)
{
    sqlite3_stmt *rows =
        ask(history, "SELECT site, id, name, zone, us FROM sites ORDER BY id");
    while (next(history, rows)) {
        const struct history_site_row row = {
            sqlite3_column_int64(rows, 0), text_at(rows, 1), text_at(rows, 2),
            text_at(rows, 3), sqlite3_column_int(rows, 4) != 0};
        take(self, &row);
    }
    return end(history, rows);
}

bool history_whole(struct history *history, int64_t site,
                   struct history_span *span)
{
    /* each thing's first and last are at the ends of its key */
    static const char sql[] =
        "SELECT min(first), max(last) FROM (SELECT"
        " min(coalesce((SELECT min(hour) * 3600 FROM hours h WHERE h.thing ="
        " t.thing), 1e18), coalesce((SELECT min(minute) * 60 FROM minutes m"
        " WHERE m.thing = t.thing), 1e18)) AS first,"
        " max(coalesce((SELECT max(hour) * 3600 + 3600 FROM hours h WHERE"
        " h.thing = t.thing), 0), coalesce((SELECT (minute + minutes) * 60"
        " FROM minutes m WHERE m.thing = t.thing ORDER BY minute DESC LIMIT 1),"
        " 0)) AS last"
        " FROM things t WHERE site = ?1) WHERE last > 0";
    sqlite3_stmt *row = ask(history, sql);
    *span = (struct history_span){0, 0};
    if (row)
        sqlite3_bind_int64(row, 1, site);
    if (next(history, row) && sqlite3_column_type(row, 1) != SQLITE_NULL)
        *span = (struct history_span){sqlite3_column_int64(row, 0),
                                      sqlite3_column_int64(row, 1)};
    if (history->code == SQLITE_ROW)
        history->code = SQLITE_DONE;
    return end(history, row);
}

bool history_things(struct history *history, int64_t site,
                    void (*take)(void *self, int64_t number,
                                 const struct history_thing *thing),
                    void *self)
{
    sqlite3_stmt *rows =
        ask(history, "SELECT thing, name, kind, unit, pump, keep, start, stop,"
                     " flow, steps FROM things WHERE site = ?1 ORDER BY thing");
    if (rows)
        sqlite3_bind_int64(rows, 1, site);
    while (next(history, rows)) {
        const struct history_thing thing = {
            .name = text_at(rows, 1),
            .kind = text_at(rows, 2),
            .unit = text_at(rows, 3),
            .pump = text_at(rows, 4),
            .keep = text_at(rows, 5),
            .start = real_at(rows, 6),
            .stop = real_at(rows, 7),
            .flow = sqlite3_column_double(rows, 8),
            .steps = sqlite3_column_int(rows, 9)};
        take(self, sqlite3_column_int64(rows, 0), &thing);
    }
    return end(history, rows);
}

#define LEVEL_COLUMNS                                                          \
    "minutes, 1.0 * least / steps, 1.0 * mean / steps, 1.0 * most / steps,"    \
    " coalesce(quality, 'good'), samples, rejects"

bool history_levels(struct history *history, int64_t thing,
                    struct history_span span,
                    void (*take)(void *self, const struct history_level *row),
                    void *self)
{
    sqlite3_stmt *rows = ask_span(
        history,
        "SELECT hour * 3600 AS at, " LEVEL_COLUMNS
        " FROM hours JOIN things USING (thing) WHERE thing = ?1 AND hour >="
        " ?2 / 3600 AND hour * 3600 < ?3"
        " UNION ALL SELECT minute * 60, " LEVEL_COLUMNS
        " FROM minutes JOIN things USING (thing) WHERE thing = ?1 AND minute"
        " >= ?2 / 60 - 60 AND minute * 60 < ?3 AND (minute + minutes) * 60 >"
        " ?2 ORDER BY at",
        thing, span);
    while (next(history, rows)) {
        const struct history_level row = {
            .at = sqlite3_column_int64(rows, 0),
            .seconds = 60 * sqlite3_column_int(rows, 1),
            .least = real_at(rows, 2),
            .mean = real_at(rows, 3),
            .most = real_at(rows, 4),
            .quality = text_at(rows, 5),
            .samples = (uint32_t)sqlite3_column_int64(rows, 6),
            .rejects = (uint32_t)sqlite3_column_int64(rows, 7)};
        take(self, &row);
    }
    return end(history, rows);
}

bool history_runs(struct history *history, int64_t thing,
                  struct history_span span,
                  void (*take)(void *self, const struct history_run_row *row),
                  void *self)
{
    sqlite3_stmt *rows = ask_span(
        history,
        "SELECT began, ended, seconds, litres, began_by, ended_by,"
        " began_why, ended_why, duty FROM runs WHERE thing = ?1 AND began >="
        " ?2 AND began < ?3 ORDER BY began",
        thing, span);
    while (next(history, rows)) {
        const struct history_run_row row = {
            .began = sqlite3_column_int64(rows, 0),
            .ended = sqlite3_column_int64(rows, 1),
            .seconds = real_at(rows, 2),
            .litres = real_at(rows, 3),
            .began_by = text_at(rows, 4),
            .ended_by = text_at(rows, 5),
            .began_why = text_at(rows, 6),
            .ended_why = text_at(rows, 7),
            .duty = sqlite3_column_int64(rows, 8)};
        take(self, &row);
    }
    return end(history, rows);
}

#define EVENT_COLUMNS                                                          \
    "at, coalesce(name, 'site'), e.kind, reason, value, mark, e.unit, why, "   \
    "by,"                                                                      \
    " e.thing, event FROM events e LEFT JOIN things t ON t.thing = e.thing"

static struct history_event event_at(sqlite3_stmt *rows, int64_t site)
{
    return (struct history_event){.site = site,
                                  .thing = sqlite3_column_int64(rows, 9),
                                  .at = sqlite3_column_int64(rows, 0),
                                  .kind = text_at(rows, 2),
                                  .reason = text_at(rows, 3),
                                  .value = real_at(rows, 4),
                                  .mark = real_at(rows, 5),
                                  .unit = text_at(rows, 6),
                                  .why = text_at(rows, 7),
                                  .by = text_at(rows, 8)};
}

bool history_events(struct history *history, int64_t site,
                    struct history_span span,
                    void (*take)(void *self, const char *of,
                                 const struct history_event *event),
                    void *self)
{
    sqlite3_stmt *rows =
        ask_span(history,
                 "SELECT " EVENT_COLUMNS
                 " WHERE e.site = ?1 AND at >= ?2 AND at < ?3 ORDER BY event",
                 site, span);
    while (next(history, rows)) {
        const struct history_event event = event_at(rows, site);
        take(self, text_at(rows, 1), &event);
    }
    return end(history, rows);
}

bool history_log(struct history *history, const struct history_log_ask *ask_for,
                 void (*take)(void *self, int64_t number, const char *of,
                              const struct history_event *event),
                 void *self)
{
    sqlite3_stmt *rows =
        ask(history,
            "SELECT " EVENT_COLUMNS
            " WHERE e.site = ?1 AND (?2 = 0 OR event < ?2) AND (?3 IS NULL OR"
            " coalesce(name, 'site') = ?3) ORDER BY event DESC LIMIT ?4");
    if (rows) {
        sqlite3_bind_int64(rows, 1, ask_for->site);
        sqlite3_bind_int64(rows, 2, ask_for->before);
        sqlite3_bind_text(rows, 3, ask_for->of, -1, SQLITE_STATIC);
        sqlite3_bind_int(rows, 4, ask_for->most);
    }
    while (next(history, rows)) {
        const struct history_event event = event_at(rows, ask_for->site);
        take(self, sqlite3_column_int64(rows, 10), text_at(rows, 1), &event);
    }
    return end(history, rows);
}
