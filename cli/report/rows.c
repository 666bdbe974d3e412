/* Levels of a history as rows of numbers. */
#include <inttypes.h>
#include <jansson.h>
#include <math.h>
#include <string.h>
#include <time.h>

#include "../../history/csv.h"
#include "../../ports/common/json.h"
#include "cuplatch/say.h"
#include "forms.h"

/* Rows of one thing in the making: `from` is when the next begins. */
struct rows {
    FILE *out;
    const struct report_level *level;
    enum rows_form form;
    int64_t every_s;
    int64_t from;
    int64_t end;
    double sum, seconds, least, most;
    uint64_t samples, rejects;
    int decimals;
};

static void say_when(int64_t at, char *text, size_t size)
{
    struct tm tm;
    time_t time = (time_t)at;
    strftime(text, size, "%Y-%m-%dT%H:%M:%S%z", localtime_r(&time, &tm));
}

static void print_csv(const struct rows *rows, const char *when)
{
    fprintf(rows->out, "%s,", when);
    csv_text(rows->out, rows->level->name);
    fputc(',', rows->out);
    csv_text(rows->out, rows->level->unit);
    if (rows->seconds > 0)
        fprintf(rows->out, ",%.*f,%.*f,%.*f", rows->decimals, rows->least,
                rows->decimals, rows->sum / rows->seconds, rows->decimals,
                rows->most);
    else
        fputs(",,,", rows->out);
    fprintf(rows->out, ",%" PRIu64 ",%" PRIu64 "\n", rows->samples,
            rows->rejects);
}

static void print_table(const struct rows *rows, const char *when)
{
    fprintf(rows->out, "%s  %-16s ", when, rows->level->name);
    if (rows->seconds > 0)
        fprintf(rows->out, "%10.*f %10.*f %10.*f %s\n", rows->decimals,
                rows->least, rows->decimals, rows->sum / rows->seconds,
                rows->decimals, rows->most, rows->level->unit);
    else
        fprintf(rows->out, "%10s %10s %10s\n", "-", "-", "-");
}

static json_t *number(const struct rows *rows, double value)
{
    double steps = pow(10, rows->decimals);
    return rows->seconds > 0 ? json_real(round(value * steps) / steps)
                             : json_null();
}

static void print_json(const struct rows *rows, const char *when)
{
    json_t *json = json_pack(
        "{s:s, s:s, s:s, s:o, s:o, s:o, s:I, s:I}", "at", when, "name",
        rows->level->name, "unit", rows->level->unit, "least",
        number(rows, rows->least), "mean",
        number(rows, rows->sum / rows->seconds), "most",
        number(rows, rows->most), "samples", (json_int_t)rows->samples,
        "rejects", (json_int_t)rows->rejects);
    cup_json_line(rows->out, json);
}

static void print_row(struct rows *rows)
{
    char when[40];
    say_when(rows->from, when, sizeof(when));
    if (rows->form == ROWS_CSV)
        print_csv(rows, when);
    else if (rows->form == ROWS_JSON)
        print_json(rows, when);
    else
        print_table(rows, when);
    rows->from += rows->every_s;
    rows->sum = rows->seconds = 0;
    rows->least = rows->most = NAN;
    rows->samples = rows->rejects = 0;
}

static void go_to(struct rows *rows, int64_t at)
{
    at = at < rows->end ? at : rows->end;
    while (rows->from + rows->every_s <= at)
        print_row(rows);
}

/* A row of minutes may go on over several of ours. */
static void take(void *self, const struct history_level *row)
{
    struct rows *rows = self;
    int64_t at = row->at > rows->from ? row->at : rows->from;
    int64_t end = row->at + row->seconds;
    go_to(rows, at);
    rows->samples += row->samples;
    rows->rejects += row->rejects;
    end = end < rows->end ? end : rows->end;
    while (at < end) {
        int64_t to = rows->from + rows->every_s;
        to = to < end ? to : end;
        if (!isnan(row->mean)) {
            rows->sum += row->mean * (double)(to - at);
            rows->seconds += (double)(to - at);
            rows->least = fmin(rows->least, row->least);
            rows->most = fmax(rows->most, row->most);
        }
        at = to;
        go_to(rows, at);
    }
}

bool report_rows(FILE *out, struct history *history,
                 const struct report *report, enum rows_form form,
                 int64_t every_s)
{
    if (form == ROWS_CSV)
        fputs("at,name,unit,least,mean,most,samples,rejects\n", out);
    if (form == ROWS_TABLE)
        fprintf(out, "%-24s  %-16s %10s %10s %10s\n", "at", "name", "least",
                "mean", "most");
    for (size_t i = 0; i < report->level_count; i++) {
        const struct report_level *level = &report->levels[i];
        struct rows rows = {.out = out,
                            .level = level,
                            .form = form,
                            .every_s = every_s,
                            .from = report->span.from,
                            .end = report->span.to,
                            .least = NAN,
                            .most = NAN,
                            .decimals =
                                cup_unit_decimals(history_unit(level->unit))};
        if (!history_levels(history, level->number, report->span, take, &rows))
            return false;
        go_to(&rows, rows.end);
        if (rows.from < rows.end)
            print_row(&rows); /* the last is shorter */
    }
    return true;
}
