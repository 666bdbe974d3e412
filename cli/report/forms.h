/* What cuplatch report prints, each form in a file of its own. */
#ifndef CUPLATCH_CLI_REPORT_FORMS_H
#define CUPLATCH_CLI_REPORT_FORMS_H

#include <stdio.h>

#include "../../report/report.h"
#include "../common/cli.h"

/* Which days of which site, as given: null where they were not. */
struct report_days {
    char *from, *to, *site;
    int week;
};

/* The options for these. */
#define REPORT_OPTIONS(days)                                                   \
    {"week",       0, POPT_ARG_NONE,                                           \
     &(days).week, 0, "the last seven days, as if no others were named",       \
     NULL},                                                                    \
        {"from",                                                               \
         0,                                                                    \
         POPT_ARG_STRING,                                                      \
         &(days).from,                                                         \
         0,                                                                    \
         "from then on: a date, one with a time, today, yesterday, \"last "    \
         "week\"",                                                             \
         "TIME"},                                                              \
        {"to", 0, POPT_ARG_STRING, &(days).to, 0, "until then", "TIME"},       \
    {                                                                          \
        "site", 0, POPT_ARG_STRING, &(days).site, 0,                           \
            "of which site, where the history has several", "ID"               \
    }

void report_forget(struct report_days *days);

/* Adds up what the words name, a history first, then things, and shows it.
 * Returns an exit code; what is wrong was told. */
int report_of(struct words *words, const struct report_days *days,
              int (*show)(void *self, struct history *history,
                          const struct report *report),
              void *self);

/* Levels as bare numbers, one row of each thing every so many seconds. */
enum rows_form { ROWS_TABLE, ROWS_CSV, ROWS_JSON };
bool report_rows(FILE *out, struct history *history,
                 const struct report *report, enum rows_form form,
                 int64_t every_s);

/* Sentences for a terminal. */
void report_text(FILE *out, const struct report *report);

/* One page with all that it needs, for a screen and for paper; the picture is
 * an SVG's text, or null. */
void report_page(FILE *out, const struct report *report, const char *picture);

/* The picture of a span, as an SVG, in a buffer of the caller's to free; null
 * when it cannot be drawn. */
char *report_picture(struct history *history, const struct report *report);

/* The same into a file, .png or .svg. Returns an exit code. */
int report_plot(struct history *history, const struct report *report,
                const char *to);

#endif
