/* What the files of a history share. */
#ifndef CUPLATCH_HISTORY_INSIDE_H
#define CUPLATCH_HISTORY_INSIDE_H

#include "history.h"

#define HISTORY_STATEMENTS 12

/* `code` is what SQLite said last. */
struct history {
    struct sqlite3 *file;
    struct sqlite3_stmt
        *statements[HISTORY_STATEMENTS]; /* as they are needed */
    int code;
};

/* Does what has no values and gives no rows. */
bool history_do(struct history *history, const char *sql);

#endif
