/* A report as one HTML file, which needs nothing beside itself. */
#include <stdio.h>
#include <string.h>

#include "../../report/period.h"
#include "forms.h"

static const char style[] =
    ":root{color-scheme:light dark}"
    "body{font:1rem/1.5 system-ui,sans-serif;max-width:76rem;margin:2rem auto;"
    "padding:0 1rem}"
    "h1{font-size:1.5rem;margin:0}h2{font-size:1.05rem;margin:0 0 .2rem}"
    "p{margin:.15rem 0}.when{color:GrayText}"
    ".parts{columns:2 "
    "22rem;column-gap:2.5rem}section{break-inside:avoid;margin-bottom:1.3rem}"
    ".todo{border-left:.25rem solid currentColor;padding-left:.6rem;"
    "font-weight:600}"
    "figure{margin:1.5rem 0;background:#fff}figure svg{width:100%;height:auto}"
    "@media print{body{font-size:10pt;max-width:none;margin:0}}";

struct page {
    FILE *out;
    bool open; /* a section is under way */
};

static void put(FILE *out, const char *text)
{
    for (; *text; text++)
        switch (*text) {
        case '&':
            fputs("&amp;", out);
            break;
        case '<':
            fputs("&lt;", out);
            break;
        case '>':
            fputs("&gt;", out);
            break;
        case '"':
            fputs("&quot;", out);
            break;
        default:
            fputc(*text, out);
        }
}

static void title(void *self, const char *text)
{
    struct page *page = self;
    fputs(page->open ? "</section>\n<section><h2>" : "<section><h2>",
          page->out);
    put(page->out, text);
    fputs("</h2>\n", page->out);
    page->open = true;
}

static void sentence(void *self, const char *text, bool advice)
{
    struct page *page = self;
    fputs(advice ? "<p class=\"todo\">To do: " : "<p>", page->out);
    put(page->out, text);
    fputs("</p>\n", page->out);
}

static void put_head(FILE *out, const struct report *report)
{
    char from[40];
    char to[40];
    period_say(report->span.from, from, sizeof(from));
    period_say(report->span.to, to, sizeof(to));
    fputs("<!doctype html>\n<html lang=\"en\">\n<head><meta "
          "charset=\"utf-8\">\n<meta name=\"viewport\" "
          "content=\"width=device-width\">\n<title>",
          out);
    put(out, report->name);
    fprintf(out, ", %s to %s</title>\n<style>%s</style></head>\n<body>\n<h1>",
            from, to, style);
    put(out, report->name);
    fprintf(out, "</h1>\n<p class=\"when\">%s to %s</p>\n", from, to);
}

void report_page(FILE *out, const struct report *report, const char *picture)
{
    struct page page = {out, false};
    struct report_sink sink = {title, sentence, &page};
    const char *svg = picture ? strstr(picture, "<svg") : NULL;
    put_head(out, report);
    if (svg)
        fprintf(out, "<figure>%s</figure>\n", svg);
    fputs("<div class=\"parts\">\n", out);
    report_tell(report, &sink);
    fputs(page.open ? "</section>\n</div>\n</body>\n</html>\n"
                    : "</div>\n</body>\n</html>\n",
          out);
}
