/* A report as text, wrapped for a terminal. */
#include <stdio.h>
#include <string.h>

#include "../report/period.h"
#include "report.h"

#define WIDTH 78

/* Words, up to the width; what goes on is set in. */
static void wrap(FILE *out, const char *first, const char *text)
{
    size_t at = strlen(first);
    size_t indent = at;
    fputs(first, out);
    while (*text) {
        size_t word = strcspn(text, " ");
        if (at > indent && at + 1 + word > WIDTH) {
            fprintf(out, "\n%*s", (int)indent, "");
            at = indent;
        } else if (at > indent) {
            fputc(' ', out);
            at++;
        }
        fprintf(out, "%.*s", (int)word, text);
        at += word;
        text += word;
        text += strspn(text, " ");
    }
    fputc('\n', out);
}

static void title(void *self, const char *text)
{
    fprintf(self, "\n%s\n", text);
}

static void sentence(void *self, const char *text, bool advice)
{
    wrap(self, advice ? "  > " : "    ", text);
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
