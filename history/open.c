/* The file: opened, made, brought forward, or set aside. */
#include <errno.h>
#include <sqlite3.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

#include "inside.h"
#include "schema.h"

/* Who else has it for a moment is waited for. */
#define BUSY_MS 5000

static int number_of(struct history *history, const char *sql)
{
    sqlite3_stmt *statement;
    int number = -1;
    history->code =
        sqlite3_prepare_v2(history->file, sql, -1, &statement, NULL);
    if (history->code != SQLITE_OK)
        return -1;
    history->code = sqlite3_step(statement);
    if (history->code == SQLITE_ROW)
        number = sqlite3_column_int(statement, 0);
    sqlite3_finalize(statement);
    return number;
}

bool history_do(struct history *history, const char *sql)
{
    history->code = sqlite3_exec(history->file, sql, NULL, NULL, NULL);
    return history->code == SQLITE_OK;
}

static bool set_number(struct history *history, const char *name, int number)
{
    char sql[80];
    snprintf(sql, sizeof(sql), "PRAGMA %s = %d", name, number);
    return history_do(history, sql);
}

/* In one transaction, whichever version it is. */
static bool bring_forward(struct history *history, int version)
{
    bool done = history_do(history, "BEGIN IMMEDIATE");
    if (version == 0)
        done = done && history_do(history, history_schema) &&
               set_number(history, "application_id", HISTORY_MARK);
    for (int i = version > 0 ? version : HISTORY_VERSION;
         done && i < HISTORY_VERSION; i++)
        done = history_do(history, history_steps[i]);
    done = done && set_number(history, "user_version", HISTORY_VERSION) &&
           history_do(history, "COMMIT");
    if (!done)
        sqlite3_exec(history->file, "ROLLBACK", NULL, NULL, NULL);
    return done;
}

/* Whether it is ours, and of a version that we know; `version` 0: it is empty.
 */
static bool look_at(struct history *history, int *version, char *said,
                    size_t size)
{
    int tables = number_of(history, "SELECT count(*) FROM sqlite_schema");
    int mark = number_of(history, "PRAGMA application_id");
    *version = number_of(history, "PRAGMA user_version");
    if (tables < 0 || mark < 0 || *version < 0)
        snprintf(said, size, "%s%s",
                 history_is_broken(history) ? "is no history, or broken: " : "",
                 history_wrong(history));
    else if (tables > 0 && mark != HISTORY_MARK)
        snprintf(said, size, "is a database of something else");
    else if (*version > HISTORY_VERSION)
        snprintf(said, size,
                 "is of version %d, and this program knows up to %d; take a "
                 "newer one",
                 *version, HISTORY_VERSION);
    else
        return true;
    return false;
}

static void shut(struct history *history)
{
    for (int i = 0; i < HISTORY_STATEMENTS; i++)
        sqlite3_finalize(history->statements[i]);
    memset(history->statements, 0, sizeof(history->statements));
    sqlite3_close(history->file);
    history->file = NULL;
}

static bool make_ready(struct history *history, int version)
{
    return history_do(history, "PRAGMA journal_mode = WAL") &&
           history_do(history, "PRAGMA synchronous = FULL") &&
           (version == HISTORY_VERSION || bring_forward(history, version));
}

static bool open_file(struct history *history, const char *path,
                      enum history_how how, char *said, size_t size)
{
    int version = 0;
    int flags = how == HISTORY_READ
                    ? SQLITE_OPEN_READONLY
                    : SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE;
    history->code = sqlite3_open_v2(path, &history->file, flags, NULL);
    if (history->code != SQLITE_OK) {
        int why = sqlite3_system_errno(history->file);
        snprintf(said, size, "%s",
                 why ? strerror(why) : history_wrong(history));
        return false;
    }
    sqlite3_busy_timeout(history->file, BUSY_MS);
    if (!look_at(history, &version, said, size))
        return false;
    if (how == HISTORY_READ && version == 0)
        snprintf(said, size, "is no history: it is empty");
    if (how == HISTORY_READ)
        return version > 0;
    if (make_ready(history, version))
        return true;
    snprintf(said, size, "%s", history_wrong(history));
    return false;
}

/* With what belongs to it, which would spoil the next. */
bool history_set_aside(const char *path, char *said, size_t size)
{
    static const char *const parts[] = {"", "-wal", "-shm"};
    char from[4096];
    char to[4200];
    char name[4150];
    snprintf(name, sizeof(name), "%s.broken-%lld", path, (long long)time(NULL));
    for (int i = 0; i < 3; i++) {
        snprintf(from, sizeof(from), "%s%s", path, parts[i]);
        snprintf(to, sizeof(to), "%s%s", name, parts[i]);
        if (rename(from, to) != 0 && errno != ENOENT) {
            snprintf(said, size, "is broken, and cannot be set aside: %s",
                     strerror(errno));
            return false;
        }
    }
    snprintf(said, size, "was broken: set aside as %s, another is begun", name);
    return true;
}

struct history *history_open(const char *path, enum history_how how, char *said,
                             size_t size)
{
    struct history *history = calloc(1, sizeof(*history));
    if (!history)
        abort();
    *said = '\0';
    if (open_file(history, path, how, said, size)) {
        *said = '\0';
        return history;
    }
    bool broken = history_is_broken(history);
    shut(history);
    if (how == HISTORY_WRITE && broken && history_set_aside(path, said, size)) {
        char again[200] = "";
        if (open_file(history, path, how, again, sizeof(again)))
            return history;
        snprintf(said, size, "%s", again);
        shut(history);
    }
    free(history);
    return NULL;
}

void history_close(struct history *history)
{
    if (!history)
        return;
    shut(history);
    free(history);
}

const char *history_wrong(const struct history *history)
{
    return history->file && sqlite3_errcode(history->file) == history->code
               ? sqlite3_errmsg(history->file)
               : sqlite3_errstr(history->code);
}

bool history_is_broken(const struct history *history)
{
    int code = history->code & 0xFF;
    return code == SQLITE_CORRUPT || code == SQLITE_NOTADB;
}

struct sqlite3 *history_file(const struct history *history)
{
    return history->file;
}
