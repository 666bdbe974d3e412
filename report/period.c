/* Local dates; a day may have 23 hours, or 25. */
#include "period.h"

#include <stdio.h>
#include <string.h>
#include <time.h>

static struct tm local(int64_t at)
{
    struct tm tm;
    time_t time = (time_t)at;
    localtime_r(&time, &tm);
    return tm;
}

/* Midnight, so many days before or after. */
static int64_t midnight(int64_t at, int days)
{
    struct tm tm = local(at);
    tm.tm_mday += days;
    tm.tm_hour = tm.tm_min = tm.tm_sec = 0;
    tm.tm_isdst = -1;
    return mktime(&tm);
}

bool period_moment(const char *text, int64_t *at)
{
    static const char *const forms[] = {"%Y-%m-%dT%H:%M:%S", "%Y-%m-%dT%H:%M",
                                        "%Y-%m-%d"};
    for (size_t i = 0; i < sizeof(forms) / sizeof(forms[0]); i++) {
        struct tm tm = {.tm_isdst = -1};
        const char *end = strptime(text, forms[i], &tm);
        if (!end || *end)
            continue;
        int day = tm.tm_mday;
        *at = mktime(&tm);
        return tm.tm_mday == day; /* 31 April is no day */
    }
    return false;
}

bool period_named(const char *text, int64_t now, struct history_span *span)
{
    if (strcmp(text, "today") == 0)
        *span = (struct history_span){midnight(now, 0), midnight(now, 1)};
    else if (strcmp(text, "yesterday") == 0)
        *span = (struct history_span){midnight(now, -1), midnight(now, 0)};
    else if (strcmp(text, "last week") == 0) {
        int since_monday = (local(now).tm_wday + 6) % 7;
        span->from = midnight(now, -since_monday - 7);
        span->to = midnight(now, -since_monday);
    } else
        return false;
    return true;
}

struct history_span period_week(int64_t end)
{
    return (struct history_span){midnight(end - 1, -6), end};
}

void period_say(int64_t at, char *text, size_t size)
{
    struct tm tm = local(at);
    strftime(text, size, "%Y-%m-%d %H:%M", &tm);
}
