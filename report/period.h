/* Days as people name them. */
#ifndef CUPLATCH_REPORT_PERIOD_H
#define CUPLATCH_REPORT_PERIOD_H

#include "../history/read.h"

/* A moment of local time, UTC: "2031-05-10", its midnight, or
 * "2031-05-10T06:30:00". False when it is neither, or no day of the calendar.
 */
bool period_moment(const char *text, int64_t *at);

/* A span by its name: "today", "yesterday", "last week" (Monday to Sunday). */
bool period_named(const char *text, int64_t now, struct history_span *span);

/* Seven days, the last of which `end` is in, or ends. */
struct history_span period_week(int64_t end);

/* "2031-05-10 06:30", by local time. */
void period_say(int64_t at, char *text, size_t size);

#endif
