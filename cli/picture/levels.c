/* The levels of a picture: what was believed, its marks, and the truth behind
 * it. */
#include <math.h>
#include <string.h>

#include "../common/json_in.h"
#include "picture.h"

/* How a unit that is kept is drawn, where that is not the same: so many times
 * the number, and so much more. */
struct drawn {
    const char *kept;
    const char *units;
    const char *unit;
    double times;
    double plus;
};
static const struct drawn drawings[] = {
    {"Pa", "us", "psi", 1 / 6894.757, 0},
    {"mm", "us", "in", 1 / 25.4, 0},
    {"C", "us", "°F", 1.8, 32},
    {"L/min", "us", "gal/min", 1 / 3.785412, 0},
    {"Pa", "metric", "bar", 1e-5, 0},
    {"C", "metric", "°C", 1, 0},
};

/* Which levels are shown: beds, tanks, what keeps a duty, and what supplies. */
static bool is_shown(const struct picture *picture, const json_t *level)
{
    size_t i;
    json_t *mark;
    const char *name = text_in(level, "name");
    if (json_is_true(json_object_get(level, "tank")) ||
        strcmp(text_in(level, "unit"), "V") == 0)
        return true;
    json_array_foreach(json_object_get(picture->figures.site, "marks"), i, mark)
    {
        if (strcmp(text_in(mark, "of"), name) == 0)
            return true;
    }
    return false;
}

static struct drawn drawn_as(const struct picture *picture, const char *unit)
{
    const char *units = text_in(picture->figures.site, "units");
    for (size_t i = 0; i < sizeof(drawings) / sizeof(drawings[0]); i++)
        if (strcmp(drawings[i].kept, unit) == 0 &&
            strcmp(drawings[i].units, *units ? units : "metric") == 0)
            return drawings[i];
    return (struct drawn){unit, units, unit, 1, 0};
}

static void add_level(struct picture *picture, const json_t *level)
{
    const char *unit = text_in(level, "unit");
    bool tank = json_is_true(json_object_get(level, "tank"));
    struct drawn as = drawn_as(picture, unit);
    const char *title = tank ? "tanks, %" : as.unit;
    int p = 0;
    while (p < picture->panel_count &&
           strcmp(picture->panels[p].unit, title) != 0)
        p++;
    if (p == PANELS_MOST)
        return;
    if (p == picture->panel_count)
        picture->panels[picture->panel_count++] =
            (struct panel){.times = as.times, .plus = as.plus, .unit = title};
    struct panel *panel = &picture->panels[p];
    const char *name = text_in(level, "name");
    int column = table_column(&picture->figures.levels, name);
    if (panel->count == LINES_MOST || column < 0)
        return;
    panel->columns[panel->count] = column;
    panel->names[panel->count++] = name;
}

void picture_sort_levels(struct picture *picture)
{
    size_t i;
    json_t *level;
    json_array_foreach(json_object_get(picture->figures.site, "levels"), i,
                       level)
    {
        if (is_shown(picture, level))
            add_level(picture, level);
    }
}

static void write_bin(FILE *out, const struct bin *bin,
                      const struct panel *panel)
{
    if (bin->count == 0)
        fprintf(out, " NaN NaN NaN");
    else
        fprintf(out, " %.8g %.8g %.8g",
                bin->sum / bin->count * panel->times + panel->plus,
                bin->low * panel->times + panel->plus,
                bin->high * panel->times + panel->plus);
}

/* A row for each bin: the time; then, for each line, the mean, the least and
 * the most of what was believed, and the same of the truth. */
void picture_level_data(const struct picture *picture, int p, FILE *out)
{
    const struct panel *panel = &picture->panels[p];
    const struct figures *figures = &picture->figures;
    for (int bin = 0; bin < figures->bins; bin++) {
        fprintf(out, "%.0f", picture->begin + (bin + 0.5) * figures->bin_s);
        for (int l = 0; l < panel->count; l++) {
            int truth = table_column(&figures->truth, panel->names[l]);
            write_bin(
                out,
                table_bin(figures, &figures->levels, panel->columns[l], bin),
                panel);
            write_bin(out, table_bin(figures, &figures->truth, truth, bin),
                      panel);
        }
        fputc('\n', out);
    }
}

/* The lowest and the highest of what is drawn. */
struct range {
    double low, high;
};

static void reach(struct range *range, double value)
{
    range->low = fmin(range->low, value);
    range->high = fmax(range->high, value);
}

static double mark_of(const struct panel *panel, const json_t *mark,
                      const char *end)
{
    return number_in(mark, end) * panel->times + panel->plus;
}

/* Which line of a panel a mark is of; -1 when it is of none. */
static int line_of(const struct panel *panel, const json_t *mark)
{
    for (int l = 0; l < panel->count; l++)
        if (strcmp(panel->names[l], text_in(mark, "of")) == 0)
            return l;
    return -1;
}

static struct range range_of(const struct picture *picture,
                             const struct panel *panel)
{
    const struct figures *figures = &picture->figures;
    struct range range = {INFINITY, -INFINITY};
    size_t i;
    json_t *mark;
    for (int l = 0; l < panel->count; l++)
        for (int bin = 0; bin < figures->bins; bin++) {
            const struct bin *level =
                table_bin(figures, &figures->levels, panel->columns[l], bin);
            if (level->count == 0)
                continue;
            reach(&range, level->low * panel->times + panel->plus);
            reach(&range, level->high * panel->times + panel->plus);
        }
    json_array_foreach(json_object_get(figures->site, "marks"), i, mark)
    {
        if (line_of(panel, mark) < 0)
            continue;
        reach(&range, mark_of(panel, mark, "start"));
        reach(&range, mark_of(panel, mark, "stop"));
    }
    if (range.low > range.high)
        return (struct range){0, 1};
    double more = fmax((range.high - range.low) * 0.1, 0.01);
    return (struct range){range.low - more, range.high + more};
}

/* Labels that would lie on each other stand side by side. */
#define LABELS_MOST 12
struct shelf {
    double values[LABELS_MOST];
    double near;
    int count;
};

/* How many characters further to the right the next one goes. */
static double shelf_place(struct shelf *shelf, double value)
{
    int beside = 0;
    for (int i = 0; i < shelf->count; i++)
        beside += fabs(shelf->values[i] - value) < shelf->near;
    if (shelf->count < LABELS_MOST)
        shelf->values[shelf->count++] = value;
    return beside * 15;
}

/* Whose it is; a folder of before has no duties in it. */
static const char *whose(const json_t *mark)
{
    const char *duty = text_in(mark, "duty");
    return *duty ? duty : text_in(mark, "of");
}

/* Names of all that have the same mark, in one label. */
static void write_mark(struct picture *picture, const struct panel *panel,
                       size_t which, const char *end, struct shelf *shelf)
{
    const json_t *marks = json_object_get(picture->figures.site, "marks");
    double value = mark_of(panel, json_array_get(marks, which), end);
    char names[120] = "";
    int line = line_of(panel, json_array_get(marks, which));
    const char *colour = colours[line < 0 ? 0 : line];
    for (size_t i = 0; i < json_array_size(marks); i++) {
        const json_t *other = json_array_get(marks, i);
        size_t used = strlen(names);
        if (line_of(panel, other) < 0 || mark_of(panel, other, end) != value)
            continue;
        if (i < which)
            return; /* it was written with that one */
        snprintf(names + used, sizeof(names) - used, "%s%s", used ? ", " : "",
                 whose(other));
    }
    char text[160];
    char more[120];
    snprintf(text, sizeof(text), "%s %s", names, end);
    snprintf(
        more, sizeof(more),
        "offset character %.1f, character 0.45 font ',7' tc rgb '%s' front",
        0.4 + shelf_place(shelf, value), colour);
    fprintf(picture->to,
            "set arrow %d from graph 0, first %.8g to graph 1, first %.8g "
            "nohead dt 2 lw 0.8 lc rgb '%s'\n",
            ++picture->labels, value, value, colour);
    picture_text(picture, text, picture->begin, value, more);
}

static void write_marks(struct picture *picture, const struct panel *panel,
                        struct range range)
{
    struct shelf shelf = {.near = (range.high - range.low) / 5};
    const json_t *marks = json_object_get(picture->figures.site, "marks");
    for (size_t i = 0; i < json_array_size(marks); i++)
        if (line_of(panel, json_array_get(marks, i)) >= 0) {
            write_mark(picture, panel, i, "start", &shelf);
            write_mark(picture, panel, i, "stop", &shelf);
        }
}

static void write_line(const struct picture *picture, const char *data, int l,
                       bool truth, const char **between)
{
    int column = 2 + 6 * l + (truth ? 3 : 0);
    fprintf(picture->to, "%s'%s' using 1:%d with lines ", *between, data,
            column);
    if (truth)
        fprintf(picture->to, "lw 5 lc rgb '#b8%s' notitle", colours[l] + 1);
    else
        fprintf(picture->to, "lw 1.4 lc rgb '%s' title ", colours[l]);
    *between = ", ";
}

/* Between the least and the most of its bins, where these are of many
 * minutes. */
static void write_band(const struct picture *picture, const char *data, int l,
                       const char **between)
{
    if (picture->figures.bin_s <= 600)
        return;
    fprintf(picture->to,
            "%s'%s' using 1:%d:%d with filledcurves fs transparent solid 0.3 "
            "noborder lc rgb '%s' notitle",
            *between, data, 6 * l + 3, 6 * l + 4, colours[l]);
    *between = ", ";
}

/* From tic to tic, so that there are four at most. */
static double step_of(struct range range)
{
    double least = (range.high - range.low) / 4;
    double ten = pow(10, floor(log10(least)));
    return ten * (least <= ten       ? 1
                  : least <= 2 * ten ? 2
                  : least <= 5 * ten ? 5
                                     : 10);
}

void picture_levels(struct picture *picture, int p)
{
    struct panel *panel = &picture->panels[p];
    struct range range = range_of(picture, panel);
    char data[DRAWING_NAME_SIZE];
    const char *between = "plot ";
    drawing_data(data, p);
    fprintf(picture->to, "unset arrow\nset ylabel ");
    drawing_text(&picture->drawing, panel->unit, false);
    fprintf(picture->to,
            " noenhanced offset character 1,0\nset yrange [%.8g:%.8g]\n"
            "set ytics nomirror %.8g\n",
            range.low, range.high, step_of(range));
    write_marks(picture, panel, range);
    if (picture->figures.truth.columns > 0)
        for (int l = 0; l < panel->count; l++)
            write_line(picture, data, l, true, &between);
    for (int l = 0; l < panel->count; l++)
        write_band(picture, data, l, &between);
    for (int l = 0; l < panel->count; l++) {
        write_line(picture, data, l, false, &between);
        drawing_text(&picture->drawing, panel->names[l], false);
    }
    /* so that there is something to draw when nothing was ever read */
    fprintf(picture->to, "%sNaN notitle\nunset label\nunset arrow\n", between);
}
