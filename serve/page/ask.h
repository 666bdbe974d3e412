/* A question to a history. */
#ifndef CUPLATCH_SERVE_PAGE_ASK_H
#define CUPLATCH_SERVE_PAGE_ASK_H

#include <stddef.h>
#include <stdint.h>

/* Questions that may wait for the thread. */
#define RECORDS_WAITING 32
/* ... and of these so many of one person; lines of a sheet, at the most. */
#define RECORDS_SHARE 8
#define RECORDS_LINES_MOST 200000
#define RECORDS_NAMES 16
#define RECORDS_POINTS_MOST 2000
#define RECORDS_EVENTS_MOST 500

/* A question. LEVELS: of the names, from..to in s UTC, at most so many points
 * of each, runs and all that was told between, too. SHEET: their levels as CSV.
 * LOG: the newest events before the number, of one name or of all. */
struct records_ask {
    enum { RECORDS_LEVELS, RECORDS_SHEET, RECORDS_LOG } kind;
    char site[64]; /* its id */
    char by[64];   /* whose question it is */
    char names[RECORDS_NAMES][32];
    size_t name_count;
    int64_t from, to, before;
    int most;
};

#endif
