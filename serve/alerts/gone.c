#include "gone.h"

#include <stdio.h>
#include <time.h>

json_t *gone_event(const char *of, const char *what, int64_t since_s)
{
    char why[160];
    char when[20];
    struct tm local;
    time_t since = (time_t)since_s;
    strftime(when, sizeof(when), "%H:%M", localtime_r(&since, &local));
    snprintf(why, sizeof(why), "%s since %s", what, when);
    return json_pack("{s:s, s:s*, s:s, s:I, s:I}", "kind", "gone", "of", of,
                     "why", why, "utc", (json_int_t)since_s, "number",
                     (json_int_t)since_s);
}

json_t *back_event(const char *of, const char *what)
{
    json_int_t now = (json_int_t)time(NULL);
    return json_pack("{s:s, s:s*, s:s, s:I, s:I}", "kind", "back", "of", of,
                     "why", what, "utc", now, "number", now);
}
