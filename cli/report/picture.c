/* A span of a history in the picture of a rehearsal: it is laid out as the
 * files that one leaves. */
#include <errno.h>
#include <limits.h>
#include <math.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

#include "../../ports/common/json.h"
#include "../common/cli.h"
#include "../picture/record.h"
#include "forms.h"

/* More rows than a picture can show. */
#define ROWS_MOST 4800
#define MINUTE_S 60

/* Levels of all things in rows of so many seconds; NAN where none is known. */
struct sheet {
    double *cells;
    size_t rows;
    size_t columns;
    size_t column; /* the one that is being filled */
    int64_t from;
    int64_t step;
};

static void take_level(void *self, const struct history_level *row)
{
    struct sheet *sheet = self;
    int64_t first = (row->at - sheet->from + sheet->step - 1) / sheet->step;
    int64_t end = row->at + row->seconds - sheet->from;
    for (int64_t r = first < 0 ? 0 : first;
         r < (int64_t)sheet->rows && r * sheet->step < end; r++)
        sheet->cells[(size_t)r * sheet->columns + sheet->column] = row->mean;
}

static FILE *open_in(const char *dir, const char *name)
{
    char path[PATH_MAX];
    snprintf(path, sizeof(path), "%s/%s", dir, name);
    FILE *out = fopen(path, "w");
    if (!out)
        tell_failure("the picture cannot be drawn", errno);
    return out;
}

static bool fill(struct sheet *sheet, struct history *history,
                 const struct report *report)
{
    int64_t span = report->span.to - report->span.from;
    sheet->from = report->span.from;
    sheet->step = (span / ROWS_MOST / MINUTE_S + 1) * MINUTE_S;
    sheet->rows = (size_t)(span / sheet->step) + 1;
    sheet->columns = report->level_count;
    size_t count = sheet->rows * sheet->columns + 1;
    sheet->cells = malloc(count * sizeof(*sheet->cells));
    if (!sheet->cells)
        abort();
    for (size_t i = 0; i < count; i++)
        sheet->cells[i] = NAN;
    for (size_t i = 0; i < report->level_count; i++) {
        sheet->column = i;
        if (!history_levels(history, report->levels[i].number, report->span,
                            take_level, sheet))
            return false;
    }
    return true;
}

static bool write_levels(const char *dir, struct history *history,
                         const struct report *report)
{
    struct sheet sheet = {.cells = NULL};
    FILE *out = open_in(dir, "levels.csv");
    bool done = out && fill(&sheet, history, report);
    if (done) {
        fputc('s', out);
        for (size_t i = 0; i < report->level_count; i++)
            fprintf(out, ",%s", report->levels[i].name);
        for (size_t r = 0; r < sheet.rows; r++) {
            fprintf(out, "\n%lld", (long long)r * (long long)sheet.step);
            for (size_t i = 0; i < sheet.columns; i++) {
                double value = sheet.cells[r * sheet.columns + i];
                fputc(',', out);
                if (!isnan(value))
                    fprintf(out, "%.3f", value);
            }
        }
        fputc('\n', out);
    }
    free(sheet.cells);
    return out && fclose(out) == 0 && done;
}

/* What is drawn of events. */
struct listing {
    FILE *out;
    int64_t from;
};

static void take_event(void *self, const char *of,
                       const struct history_event *event)
{
    const struct listing *listing = self;
    cup_json_line(listing->out,
                  json_pack("{s:s, s:s, s:s, s:I}", "kind", event->kind, "of",
                            of, "reason", event->reason, "s",
                            (json_int_t)(event->at - listing->from)));
}

static bool write_events(const char *dir, struct history *history,
                         const struct report *report)
{
    struct listing listing = {open_in(dir, "events.jsonl"), report->span.from};
    return listing.out &&
           history_events(history, report->site, report->span, take_event,
                          &listing) &&
           fclose(listing.out) == 0;
}

/* Local time, since that is what the axis shows. */
static int64_t civil(int64_t at)
{
    struct tm tm;
    time_t time = (time_t)at;
    localtime_r(&time, &tm);
    return at + tm.tm_gmtoff;
}

static json_t *marks_of(const struct report *report)
{
    json_t *marks = json_array();
    for (size_t i = 0; i < report->duty_count; i++) {
        const struct report_duty *duty = &report->duties[i];
        if (*duty->keep)
            json_array_append_new(
                marks, json_pack("{s:s, s:s, s:f, s:f}", "of", duty->keep,
                                 "duty", duty->name, "start", duty->start,
                                 "stop", duty->stop));
    }
    return marks;
}

static bool write_site(const char *dir, const struct report *report)
{
    FILE *out = open_in(dir, "site.json");
    json_t *levels = json_array();
    json_t *pumps = json_array();
    for (size_t i = 0; i < report->level_count; i++)
        json_array_append_new(levels, json_pack("{s:s, s:s, s:b}", "name",
                                                report->levels[i].name, "unit",
                                                report->levels[i].unit, "tank",
                                                report->levels[i].tank));
    json_t *litres = json_array();
    for (size_t i = 0; i < report->pump_count; i++) {
        double of = report->pumps[i].litres;
        json_array_append_new(pumps, json_string(report->pumps[i].name));
        json_array_append_new(litres, isnan(of) ? json_null() : json_real(of));
    }
    json_t *json = json_pack(
        "{s:s, s:s, s:I, s:o, s:o, s:o, s:o, s:[]}", "name", report->name,
        "units", report->us ? "us" : "metric", "from_s",
        (json_int_t)civil(report->span.from), "levels", levels, "pumps", pumps,
        "litres", litres, "marks", marks_of(report), "troubles");
    if (!out) {
        json_decref(json);
        return false;
    }
    cup_json_line(out, json);
    return fclose(out) == 0;
}

static void remove_all(const char *dir)
{
    static const char *const names[] = {"levels.csv", "events.jsonl",
                                        "site.json", "picture.svg"};
    char path[PATH_MAX];
    for (size_t i = 0; i < sizeof(names) / sizeof(names[0]); i++) {
        snprintf(path, sizeof(path), "%s/%s", dir, names[i]);
        unlink(path);
    }
    rmdir(dir);
}

int report_plot(struct history *history, const struct report *report,
                const char *to)
{
    char dir[] = "/tmp/cuplatch-report-XXXXXX";
    int code = EXIT_OUTSIDE;
    if (!mkdtemp(dir)) {
        tell_failure("the picture cannot be drawn", errno);
        return EXIT_OUTSIDE;
    }
    if (write_levels(dir, history, report) &&
        write_events(dir, history, report) && write_site(dir, report))
        code = plot_record(dir, to);
    remove_all(dir);
    return code;
}

static char *read_whole(const char *path)
{
    FILE *in = fopen(path, "r");
    char *text = NULL;
    size_t size = 0;
    if (!in)
        return NULL;
    if (getdelim(&text, &size, '\0', in) < 0) {
        free(text);
        text = NULL;
    }
    fclose(in);
    return text;
}

char *report_picture(struct history *history, const struct report *report)
{
    char dir[] = "/tmp/cuplatch-picture-XXXXXX";
    char path[sizeof(dir) + 16];
    char *text = NULL;
    if (!mkdtemp(dir))
        return NULL;
    snprintf(path, sizeof(path), "%s/picture.svg", dir);
    if (report_plot(history, report, path) == EXIT_DONE)
        text = read_whole(path);
    remove_all(dir);
    return text;
}
