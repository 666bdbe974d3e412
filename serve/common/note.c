/* One write a line, so that two threads do not mix theirs. */
#include "note.h"

#include <stdarg.h>
#include <stdbool.h>
#include <stdio.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

void note(const char *part, const char *site, const char *form, ...)
{
    char line[1200];
    char when[32];
    struct tm tm;
    time_t now = time(NULL);
    va_list values;
    strftime(when, sizeof(when), "%Y-%m-%dT%H:%M:%SZ", gmtime_r(&now, &tm));
    bool named = site && *site;
    int used = snprintf(line, sizeof(line), "%s %s%s%s: ", when, part,
                        named ? " " : "", named ? site : "");
    va_start(values, form);
    vsnprintf(line + used, sizeof(line) - (size_t)used - 1, form, values);
    va_end(values);
    size_t length = strlen(line);
    line[length] = '\n';
    (void)!write(STDERR_FILENO, line, length + 1);
}
