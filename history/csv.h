/* Levels as CSV, RFC 4180. */
#ifndef CUPLATCH_HISTORY_CSV_H
#define CUPLATCH_HISTORY_CSV_H

#include <stdio.h>

/* A field: in quotes, and its own doubled, where it has a comma, a quote or the
 * end of a line. */
void csv_text(FILE *out, const char *text);

#endif
