#include "outbox.h"

#include <sqlite3.h>

#include "inside.h"

static bool end(struct history *history, sqlite3_stmt *statement)
{
    int code = history->code;
    sqlite3_finalize(statement);
    history->code = code == SQLITE_DONE ? SQLITE_OK : code;
    return code == SQLITE_DONE;
}

/* Prepared anew each time: events are few. */
static bool run(struct history *history, sqlite3_stmt *statement)
{
    if (statement)
        history->code = sqlite3_step(statement);
    return end(history, statement);
}

static sqlite3_stmt *ask(struct history *history, const char *sql)
{
    sqlite3_stmt *statement = NULL;
    history->code =
        sqlite3_prepare_v2(history->file, sql, -1, &statement, NULL);
    return statement;
}

bool outbox_put(struct history *history, const char *site, int64_t number,
                const char *text)
{
    sqlite3_stmt *row = ask(
        history, "INSERT INTO outbox (site, text, number) VALUES (?1, ?2, ?3)");
    if (row) {
        sqlite3_bind_text(row, 1, site, -1, SQLITE_STATIC);
        sqlite3_bind_text(row, 2, text, -1, SQLITE_STATIC);
        sqlite3_bind_int64(row, 3, number);
    }
    return run(history, row);
}

static sqlite3_stmt *ask_of(struct history *history, const char *sql,
                            const char *site, int64_t number)
{
    sqlite3_stmt *rows = ask(history, sql);
    if (rows) {
        sqlite3_bind_text(rows, 1, site, -1, SQLITE_STATIC);
        sqlite3_bind_int64(rows, 2, number);
    }
    return rows;
}

static bool read_rows(struct history *history, sqlite3_stmt *rows, int most,
                      outbox_take *take, void *self)
{
    if (rows)
        sqlite3_bind_int(rows, 3, most);
    while (rows && (history->code = sqlite3_step(rows)) == SQLITE_ROW)
        take(self, sqlite3_column_int64(rows, 0),
             (const char *)sqlite3_column_text(rows, 1));
    return end(history, rows);
}

#define OF_A_SITE "SELECT message, text FROM outbox WHERE site = ?1 AND "
#define IN_ORDER "message > ?2 ORDER BY message LIMIT ?3"

bool outbox_read(struct history *history, const char *site, int64_t after,
                 int most, outbox_take *take, void *self)
{
    static const char sql[] = OF_A_SITE "sent = 0 AND " IN_ORDER;
    return read_rows(history, ask_of(history, sql, site, after), most, take,
                     self);
}

int64_t outbox_find(struct history *history, const char *site, int64_t number)
{
    static const char sql[] =
        "SELECT COALESCE((SELECT MAX(message) FROM outbox WHERE site = ?1 AND"
        " number = ?2), (SELECT MIN(message) - 1 FROM outbox WHERE site = ?1"
        " AND number > ?2), 0)";
    int64_t message = 0;
    sqlite3_stmt *row = ask_of(history, sql, site, number);
    while (row && (history->code = sqlite3_step(row)) == SQLITE_ROW)
        message = sqlite3_column_int64(row, 0);
    (void)end(history, row);
    return message;
}

bool outbox_again(struct history *history, const char *site, int64_t after,
                  int most, outbox_take *take, void *self)
{
    static const char sql[] = OF_A_SITE IN_ORDER;
    return read_rows(history, ask_of(history, sql, site, after), most, take,
                     self);
}

bool outbox_sent(struct history *history, int64_t message)
{
    sqlite3_stmt *row =
        ask(history, "UPDATE outbox SET sent = 1 WHERE message = ?1");
    if (row)
        sqlite3_bind_int64(row, 1, message);
    return run(history, row);
}

bool outbox_tidy(struct history *history)
{
    sqlite3_stmt *row =
        ask(history, "DELETE FROM outbox WHERE message IN (SELECT message FROM"
                     " (SELECT message, sent, row_number() OVER"
                     " (PARTITION BY site ORDER BY message DESC) AS place"
                     " FROM outbox) WHERE place > CASE sent WHEN 1 THEN ?1"
                     " ELSE ?2 END)");
    if (row) {
        sqlite3_bind_int(row, 1, OUTBOX_KEPT);
        sqlite3_bind_int(row, 2, OUTBOX_WAITS);
    }
    return run(history, row);
}
