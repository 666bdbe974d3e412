/* A report as text, wrapped for a terminal. */
#include <stdio.h>

#include "../../report/period.h"
#include "forms.h"

static void title(void *self, const char *text)
{
    fprintf(self, "\n%s\n", text);
}

static void sentence(void *self, const char *text, bool advice)
{
    print_wrapped(self, advice ? "  > " : "    ", text);
}

void report_text(FILE *out, const struct report *report)
{
    char from[40];
    char to[40];
    struct report_sink sink = {title, sentence, out};
    period_say(report->span.from, from, sizeof(from));
    period_say(report->span.to, to, sizeof(to));
    fprintf(out, "%s, %s to %s\n", report->name, from, to);
    report_tell(report, &sink);
}
