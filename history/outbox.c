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

bool outbox_put(struct history *history, const char *site, const char *text)
{
    sqlite3_stmt *row =
        ask(history, "INSERT INTO outbox (site, text) VALUES (?1, ?2)");
    if (row) {
        sqlite3_bind_text(row, 1, site, -1, SQLITE_STATIC);
        sqlite3_bind_text(row, 2, text, -1, SQLITE_STATIC);
    }
    return run(history, row);
}

bool outbox_read(struct history *history, const char *site, int64_t after,
                 int most,
                 void (*take)(void *self, int64_t message, const char *text),
                 void *self)
{
    sqlite3_stmt *rows =
        ask(history, "SELECT message, text FROM outbox WHERE site = ?1 AND"
                     " message > ?2 ORDER BY message LIMIT ?3");
    if (!rows)
        return false;
    sqlite3_bind_text(rows, 1, site, -1, SQLITE_STATIC);
    sqlite3_bind_int64(rows, 2, after);
    sqlite3_bind_int(rows, 3, most);
    while ((history->code = sqlite3_step(rows)) == SQLITE_ROW)
        take(self, sqlite3_column_int64(rows, 0),
             (const char *)sqlite3_column_text(rows, 1));
    return end(history, rows);
}

bool outbox_drop(struct history *history, int64_t message)
{
    sqlite3_stmt *row = ask(history, "DELETE FROM outbox WHERE message = ?1");
    if (row)
        sqlite3_bind_int64(row, 1, message);
    return run(history, row);
}
