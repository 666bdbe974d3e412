/* What is added, by statements that are prepared once. */
#include <math.h>
#include <sqlite3.h>
#include <string.h>

#include "inside.h"

enum which {
    ADD_SITE,
    ADD_THING,
    ADD_MINUTES,
    ADD_RUN,
    END_RUN,
    ADD_EVENT,
    NOTE_SEEN,
    GET_SEEN,
    ADD_CHANGE,
    GET_OPEN,
    GET_AFTER
};

static const char *const texts[] = {
    [ADD_SITE] =
        "INSERT INTO sites (id, name, zone, us) VALUES (?1, ?2, ?3, ?4)"
        " ON CONFLICT (id) DO UPDATE SET name = ?2, zone = ?3, us = ?4"
        " RETURNING site",
    [ADD_THING] =
        "INSERT INTO things (site, name, kind, unit, steps, pump, keep, start,"
        " stop, flow) VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10)"
        " ON CONFLICT (site, name) DO UPDATE SET kind = ?3, unit = ?4,"
        " steps = ?5, pump = ?6, keep = ?7, start = ?8, stop = ?9, flow = ?10"
        " RETURNING thing",
    [ADD_MINUTES] =
        "INSERT OR REPLACE INTO minutes VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7,"
        " ?8, ?9)",
    [ADD_RUN] =
        "INSERT INTO runs (thing, began, began_by, began_why, duty, began_ms)"
        " VALUES (?1, ?2, ?3, ?4, nullif(?5, 0), ?6) RETURNING run",
    [END_RUN] = "UPDATE runs SET ended = ?2, seconds = ?3, litres = ?4,"
                " ended_by = ?5, ended_why = ?6 WHERE run = ?1",
    [ADD_EVENT] = "INSERT INTO events (site, thing, at, kind, reason, value,"
                  " mark, unit, why, by)"
                  " VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10)",
    [NOTE_SEEN] = "UPDATE sites SET run = ?2, number = ?3 WHERE site = ?1",
    [GET_SEEN] = "SELECT run, number FROM sites WHERE site = ?1",
    [GET_OPEN] =
        "SELECT run, began_ms FROM (SELECT run, began_ms, ended FROM runs"
        " WHERE thing = ?1 ORDER BY began DESC, run DESC LIMIT 1)"
        " WHERE ended IS NULL",
    [GET_AFTER] = "SELECT minute + minutes FROM minutes WHERE thing = ?1"
                  " ORDER BY minute DESC LIMIT 1",
    [ADD_CHANGE] = "INSERT INTO changes (thing, at, why, by)"
                   " VALUES (?1, ?2, ?3, ?4)"};
_Static_assert(sizeof(texts) / sizeof(texts[0]) <= HISTORY_STATEMENTS,
               "a place for each");

static sqlite3_stmt *ready(struct history *history, enum which which)
{
    sqlite3_stmt **statement = &history->statements[which];
    history->code = SQLITE_OK;
    if (!*statement)
        history->code =
            sqlite3_prepare_v3(history->file, texts[which], -1,
                               SQLITE_PREPARE_PERSISTENT, statement, NULL);
    return *statement;
}

/* Texts are the caller's until the step is done. */
static void put_text(sqlite3_stmt *statement, int at, const char *text)
{
    sqlite3_bind_text(statement, at, text, -1, SQLITE_STATIC);
}

static void put_real(sqlite3_stmt *statement, int at, double value)
{
    if (isnan(value))
        sqlite3_bind_null(statement, at);
    else
        sqlite3_bind_double(statement, at, value);
}

/* Its first column, of what gives one. */
static int64_t step(struct history *history, sqlite3_stmt *statement)
{
    int64_t number = 0;
    history->code = sqlite3_step(statement);
    if (history->code == SQLITE_ROW) {
        number = sqlite3_column_int64(statement, 0);
        history->code = sqlite3_step(statement);
    }
    if (history->code == SQLITE_DONE)
        history->code = SQLITE_OK;
    int code = history->code;
    sqlite3_reset(statement);
    history->code = code;
    return code == SQLITE_OK ? number : 0;
}

static bool done(struct history *history, sqlite3_stmt *statement)
{
    step(history, statement);
    return history->code == SQLITE_OK;
}

bool history_begin(struct history *history)
{
    return history_do(history, "BEGIN IMMEDIATE");
}

bool history_commit(struct history *history)
{
    return history_do(history, "COMMIT");
}

void history_roll_back(struct history *history)
{
    int code = history->code;
    sqlite3_exec(history->file, "ROLLBACK", NULL, NULL, NULL);
    history->code = code;
}

int64_t history_site(struct history *history, const char *id, const char *name,
                     const char *zone, bool us)
{
    sqlite3_stmt *statement = ready(history, ADD_SITE);
    if (!statement)
        return 0;
    put_text(statement, 1, id);
    put_text(statement, 2, name);
    put_text(statement, 3, zone);
    sqlite3_bind_int(statement, 4, us);
    return step(history, statement);
}

int64_t history_thing(struct history *history, int64_t site,
                      const struct history_thing *thing)
{
    sqlite3_stmt *statement = ready(history, ADD_THING);
    if (!statement)
        return 0;
    sqlite3_bind_int64(statement, 1, site);
    put_text(statement, 2, thing->name);
    put_text(statement, 3, thing->kind);
    put_text(statement, 4, thing->unit);
    sqlite3_bind_int(statement, 5, thing->steps);
    put_text(statement, 6, thing->pump);
    put_text(statement, 7, thing->keep);
    put_real(statement, 8, thing->start);
    put_real(statement, 9, thing->stop);
    put_real(statement, 10, thing->flow > 0 ? thing->flow : NAN);
    return step(history, statement);
}

bool history_minutes(struct history *history, const struct history_minutes *row)
{
    sqlite3_stmt *statement = ready(history, ADD_MINUTES);
    if (!statement)
        return false;
    sqlite3_bind_int64(statement, 1, row->thing);
    sqlite3_bind_int64(statement, 2, row->minute);
    sqlite3_bind_int(statement, 3, row->minutes);
    for (int i = 4; i <= 6; i++)
        sqlite3_bind_null(statement, i);
    if (row->known) {
        sqlite3_bind_int(statement, 4, row->least);
        sqlite3_bind_int(statement, 5, row->mean);
        sqlite3_bind_int(statement, 6, row->most);
    }
    /* good is what nearly all are */
    put_text(statement, 7,
             strcmp(row->quality, "good") == 0 ? NULL : row->quality);
    sqlite3_bind_int64(statement, 8, row->samples);
    sqlite3_bind_int64(statement, 9, row->rejects);
    return done(history, statement);
}

int64_t history_minute_after(struct history *history, int64_t thing)
{
    sqlite3_stmt *statement = ready(history, GET_AFTER);
    if (!statement)
        return 0;
    sqlite3_bind_int64(statement, 1, thing);
    return step(history, statement);
}

int64_t history_run(struct history *history, const struct history_begun *run)
{
    sqlite3_stmt *statement = ready(history, ADD_RUN);
    if (!statement)
        return 0;
    sqlite3_bind_int64(statement, 1, run->pump);
    sqlite3_bind_int64(statement, 2, run->at);
    put_text(statement, 3, run->reason);
    put_text(statement, 4, run->why);
    sqlite3_bind_int64(statement, 5, run->duty);
    sqlite3_bind_int64(statement, 6, run->ms);
    return step(history, statement);
}

int64_t history_run_open(struct history *history, int64_t pump, uint32_t *ms)
{
    int64_t run = 0;
    sqlite3_stmt *statement = ready(history, GET_OPEN);
    if (!statement)
        return 0;
    sqlite3_bind_int64(statement, 1, pump);
    history->code = sqlite3_step(statement);
    if (history->code == SQLITE_ROW) {
        run = sqlite3_column_int64(statement, 0);
        *ms = (uint32_t)sqlite3_column_int64(statement, 1);
    }
    sqlite3_reset(statement);
    return run;
}

bool history_run_end(struct history *history, int64_t run, int64_t at,
                     double seconds, double litres, const char *reason,
                     const char *why)
{
    sqlite3_stmt *statement = ready(history, END_RUN);
    if (!statement)
        return false;
    sqlite3_bind_int64(statement, 1, run);
    sqlite3_bind_int64(statement, 2, at);
    put_real(statement, 3, seconds);
    put_real(statement, 4, litres);
    put_text(statement, 5, reason);
    put_text(statement, 6, why);
    return done(history, statement);
}

bool history_event(struct history *history, const struct history_event *event)
{
    sqlite3_stmt *statement = ready(history, ADD_EVENT);
    if (!statement)
        return false;
    sqlite3_bind_int64(statement, 1, event->site);
    if (event->thing > 0)
        sqlite3_bind_int64(statement, 2, event->thing);
    else
        sqlite3_bind_null(statement, 2);
    sqlite3_bind_int64(statement, 3, event->at);
    put_text(statement, 4, event->kind);
    put_text(statement, 5, event->reason);
    put_real(statement, 6, event->value);
    put_real(statement, 7, event->mark);
    put_text(statement, 8, event->unit);
    put_text(statement, 9, event->why);
    put_text(statement, 10, event->by);
    return done(history, statement);
}

bool history_note_seen(struct history *history, int64_t site,
                       const struct history_seen *seen)
{
    sqlite3_stmt *statement = ready(history, NOTE_SEEN);
    if (!statement)
        return false;
    sqlite3_bind_int64(statement, 1, site);
    put_text(statement, 2, seen->run);
    sqlite3_bind_int64(statement, 3, seen->number);
    return done(history, statement);
}

struct history_seen history_seen(struct history *history, int64_t site)
{
    struct history_seen seen = {"", -1};
    sqlite3_stmt *statement = ready(history, GET_SEEN);
    if (!statement)
        return seen;
    sqlite3_bind_int64(statement, 1, site);
    history->code = sqlite3_step(statement);
    const char *run = history->code == SQLITE_ROW
                          ? (const char *)sqlite3_column_text(statement, 0)
                          : NULL;
    if (run) {
        strncpy(seen.run, run, sizeof(seen.run) - 1);
        seen.number = sqlite3_column_int64(statement, 1);
    }
    sqlite3_reset(statement);
    return seen;
}

bool history_change(struct history *history, int64_t thing, int64_t at,
                    const char *why, const char *by)
{
    sqlite3_stmt *statement = ready(history, ADD_CHANGE);
    if (!statement)
        return false;
    sqlite3_bind_int64(statement, 1, thing);
    sqlite3_bind_int64(statement, 2, at);
    put_text(statement, 3, why);
    put_text(statement, 4, by);
    return done(history, statement);
}
