/* The rows of a picture: what went wrong, each pump's runs and what kept it
 * off, alerts. */
#include <math.h>
#include <stdlib.h>
#include <string.h>

#include "../common/json_in.h"
#include "picture.h"

#define ROWS_OF_TROUBLE 3

/* From one end to the other. */
struct range {
    double low, high;
};

static const char *pump_name(const struct picture *picture, int row)
{
    const json_t *pumps = json_object_get(picture->figures.site, "pumps");
    const char *name = json_string_value(json_array_get(pumps, (size_t)row));
    return name ? name : "";
}

/* What a pump gave: in truth, or by its flow as a report has it; NAN where
 * neither is known. */
static double litres_of(const struct picture *picture, int row)
{
    const struct table *truth = &picture->figures.truth;
    const json_t *told = json_array_get(
        json_object_get(picture->figures.site, "litres"), (size_t)row);
    char column[80];
    snprintf(column, sizeof(column), "%s_L", pump_name(picture, row));
    int at = table_column(truth, column);
    if (at >= 0)
        return truth->last[at];
    return json_is_real(told) ? json_real_value(told) : NAN;
}

/* "583 L, 2 runs", at the end of a row. */
static void write_total(struct picture *picture, int row)
{
    bool us = picture_is_us(picture);
    double litres = litres_of(picture, row);
    char text[80] = "";
    unsigned runs = 0;
    if (!isnan(litres))
        snprintf(text, sizeof(text), "%.0f %s, ", litres / (us ? 3.785412 : 1),
                 us ? "gal" : "L");
    for (size_t i = 0; i < picture->spans.count; i++)
        runs += picture->spans.list[i].kind == SPAN_RUN &&
                picture->spans.list[i].row == row;
    snprintf(text + strlen(text), sizeof(text) - strlen(text), "%u run%s", runs,
             runs == 1 ? "" : "s");
    picture_text(picture, text, picture->end, row, "offset character 1,0");
}

static void write_box(struct picture *picture, struct range x, struct range y,
                      const char *look)
{
    double thin = picture->days * DAY_S / 1100; /* so that nothing vanishes */
    if (x.high - x.low < thin)
        x.high = x.low + thin;
    fprintf(picture->to,
            "set object %d rectangle from %.0f,%.3f to %.0f,%.3f %s\n",
            ++picture->labels, picture->begin + x.low, y.low,
            picture->begin + x.high, y.high, look);
}

static void words_of(char *text, const char *code)
{
    for (; *code; code++)
        *text++ = (char)(*code == '-' ? ' ' : *code);
    *text = '\0';
}

static void write_block(struct picture *picture, const struct span_of *span)
{
    char why[SPAN_WHY_SIZE];
    write_box(picture, (struct range){span->from_s, span->to_s},
              (struct range){span->row + 0.05, span->row + 0.4},
              "fs pattern 4 border fc rgb '" COLOUR_BLOCK "'");
    words_of(why, span->why);
    if (span->to_s - span->from_s > picture->days * DAY_S / 14)
        picture_text(picture, why, picture->begin + span->from_s,
                     span->row + 0.22,
                     "offset character 0.3,0 font ',7' front");
}

/* Adds the hours of a run to the days that it was in. */
static void add_hours(double *hours, int days, const struct span_of *span)
{
    for (double at = span->from_s; at < span->to_s;) {
        int day = (int)(at / DAY_S);
        double until = fmin(span->to_s, (day + 1) * DAY_S);
        if (day >= 0 && day <= days)
            hours[day] += (until - at) / 3600;
        at = until;
    }
}

/* Hours of each day, as a share of the most that this pump ran in one. */
static void write_hours(struct picture *picture, int row)
{
    int days = (int)ceil(picture->days);
    double *hours = calloc((size_t)days + 1, sizeof(*hours));
    double most = 0;
    if (!hours)
        abort();
    for (size_t i = 0; i < picture->spans.count; i++)
        if (picture->spans.list[i].kind == SPAN_RUN &&
            picture->spans.list[i].row == row)
            add_hours(hours, days, &picture->spans.list[i]);
    for (int day = 0; day <= days; day++)
        most = fmax(most, hours[day]);
    for (int day = 0; day <= days; day++)
        if (hours[day] > 0)
            write_box(
                picture, (struct range){day * DAY_S, (day + 0.9) * DAY_S},
                (struct range){row + 0.4 - 0.8 * hours[day] / most, row + 0.4},
                "fs solid 1 noborder fc rgb '" COLOUR_RUN "'");
    free(hours);
}

static void write_spans(struct picture *picture)
{
    for (int row = 0; row < picture->spans.rows; row++) {
        write_total(picture, row);
        if (picture_is_long(picture))
            write_hours(picture, row);
    }
    for (size_t i = 0; i < picture->spans.count; i++) {
        const struct span_of *span = &picture->spans.list[i];
        if (span->kind == SPAN_BLOCK)
            write_block(picture, span);
        else if (span->kind == SPAN_RUN && !picture_is_long(picture))
            write_box(picture, (struct range){span->from_s, span->to_s},
                      (struct range){span->row - 0.3, span->row + 0.3},
                      "fs solid 1 noborder fc rgb '" COLOUR_RUN "'");
    }
}

/* What went wrong, in rows of its own above the pumps: each in the first row
 * that is free. */
static void write_troubles(struct picture *picture)
{
    double free_at[ROWS_OF_TROUBLE] = {-1, -1, -1};
    size_t i;
    json_t *trouble;
    json_array_foreach(json_object_get(picture->figures.site, "troubles"), i,
                       trouble)
    {
        char text[100];
        double s = number_in(trouble, "s");
        double end_s = fmin(s + number_in(trouble, "for_s"),
                            picture->end - picture->begin);
        int row = 0;
        snprintf(text, sizeof(text), "%s of %s", text_in(trouble, "kind"),
                 text_in(trouble, "of"));
        while (row < ROWS_OF_TROUBLE - 1 && free_at[row] > s)
            row++;
        /* as wide as its words */
        free_at[row] =
            fmax(end_s, s + picture->days * DAY_S * (double)strlen(text) / 170);
        if (row + 1 > picture->rows)
            picture->rows = row + 1;
        write_box(picture, (struct range){s, end_s},
                  (struct range){-row - 1.15, -row - 0.85},
                  "fs solid 0.35 noborder fc rgb '" COLOUR_TROUBLE "'");
        picture_text(picture, text, picture->begin + s, -row - 1,
                     "offset character 0.3,0 font ',8' tc rgb '" COLOUR_TROUBLE
                     "' front");
    }
}

void picture_runs(struct picture *picture)
{
    int rows = picture->spans.rows;
    fprintf(picture->to, "set ylabel ''\nunset key\n");
    write_spans(picture);
    write_troubles(picture);
    for (size_t i = 0; i < picture->spans.count; i++)
        if (picture->spans.list[i].kind == SPAN_FLAG)
            fprintf(picture->to,
                    "set label %d '' at %.0f,%d point pt 9 ps 0.9 lc rgb "
                    "'" COLOUR_TROUBLE "'\n",
                    ++picture->labels,
                    picture->begin + picture->spans.list[i].from_s, rows);
    fprintf(picture->to,
            "set yrange [%d.6:%.1f]\nset ytics scale 0 noenhanced (", rows,
            -0.6 - picture->rows);
    for (int row = 0; row < rows; row++) {
        drawing_text(&picture->drawing, pump_name(picture, row), true);
        fprintf(picture->to, " %d, ", row);
    }
    if (picture->rows > 0)
        fprintf(picture->to, "'went wrong' -1, ");
    fprintf(picture->to, "'alerts' %d)\nplot NaN notitle\n", rows);
}
