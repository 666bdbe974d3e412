/* cuplatch plot DIR -o FILE: what a rehearsal left, as one picture: levels
 * with their marks, runs as bars, blocked time hatched, alerts flagged, nights
 * shaded, on one time axis. gnuplot draws. */
#include <errno.h>
#include <inttypes.h>
#include <jansson.h>
#include <limits.h>
#include <stdlib.h>
#include <string.h>

#include "../grammar/text.h"
#include "cli.h"
#include "draw.h"
#include "record.h"

#define PANELS_MOST 8
#define LINES_MOST 8

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
    {"C", "us", "F", 1.8, 32},
    {"L/min", "us", "gal/min", 1 / 3.785412, 0},
    {"Pa", "metric", "bar", 1e-5, 0},
};

/* Levels of one unit share a panel. */
struct panel {
    struct drawn as;
    const char *unit;
    int columns[LINES_MOST];
    const char *names[LINES_MOST];
    int count;
};

struct plot {
    const char *dir;
    struct drawing drawing;
    FILE *to; /* its script */
    json_t *site;
    struct panel panels[PANELS_MOST];
    int panel_count;
    int first_pump; /* column of the levels */
    double days;
};

/* Colours that differ in lightness, too: made for us, by eye. */
static const char *const colours[] = {"#1b6e8c", "#c2571a", "#4f7d2a",
                                      "#7a3b8f", "#a88700", "#2f4858",
                                      "#b03060", "#5b8fb9"};

/* A text of an object; empty when it has none of that name. */
static const char *text_of(const json_t *json, const char *key)
{
    const char *text = json_string_value(json_object_get(json, key));
    return text ? text : "";
}

/* What growers look at: beds, tanks, and what keeps a duty. */
static bool is_shown(const struct plot *plot, json_t *level)
{
    size_t i;
    json_t *mark;
    const char *name = text_of(level, "name");
    if (json_is_true(json_object_get(level, "tank")))
        return true;
    json_array_foreach(json_object_get(plot->site, "marks"), i,
                       mark) if (strcmp(text_of(mark, "of"), name) ==
                                 0) return true;
    return false;
}

static struct drawn drawn_as(const struct plot *plot, const char *unit)
{
    const char *units = text_of(plot->site, "units");
    for (size_t i = 0; i < sizeof(drawings) / sizeof(drawings[0]); i++)
        if (strcmp(drawings[i].kept, unit) == 0 &&
            strcmp(drawings[i].units, *units ? units : "metric") == 0)
            return drawings[i];
    return (struct drawn){unit, units, unit, 1, 0};
}

static void add_level(struct plot *plot, json_t *level, int column)
{
    const char *unit = text_of(level, "unit");
    bool tank = json_is_true(json_object_get(level, "tank"));
    struct drawn as = drawn_as(plot, unit);
    const char *title = tank ? "tanks, %" : as.unit;
    if (!tank && strcmp(unit, "%") == 0)
        title = "soil and air, %";
    int p = 0;
    while (p < plot->panel_count && strcmp(plot->panels[p].unit, title) != 0)
        p++;
    if (p == PANELS_MOST)
        return;
    if (p == plot->panel_count)
        plot->panels[plot->panel_count++] =
            (struct panel){.as = as, .unit = title};
    struct panel *panel = &plot->panels[p];
    if (panel->count == LINES_MOST)
        return;
    panel->columns[panel->count] = column;
    panel->names[panel->count++] = text_of(level, "name");
}

static void sort_levels(struct plot *plot)
{
    size_t i;
    json_t *level;
    json_t *levels = json_object_get(plot->site, "levels");
    json_array_foreach(levels, i, level) if (is_shown(plot, level))
        add_level(plot, level, (int)i + 2);
    plot->first_pump = (int)json_array_size(levels) + 2;
}

/* The last second in the levels: how long it was. */
static double days_of(const char *dir)
{
    char path[PATH_MAX];
    char line[4000];
    double s = 0;
    snprintf(path, sizeof(path), "%s/levels.csv", dir);
    FILE *in = fopen(path, "r");
    while (in && fgets(line, sizeof(line), in))
        s = strtod(line, NULL);
    if (in)
        fclose(in);
    return s / 86400;
}

static double mark_of(const struct panel *panel, json_t *mark, const char *end)
{
    double kept = json_number_value(json_object_get(mark, end));
    return kept * panel->as.times + panel->as.plus;
}

static void write_marks(const struct plot *plot, const struct panel *panel)
{
    size_t i;
    json_t *mark;
    json_array_foreach(json_object_get(plot->site, "marks"), i, mark)
    {
        const char *of = text_of(mark, "of");
        for (int l = 0; l < panel->count; l++)
            if (strcmp(panel->names[l], of) == 0)
                fprintf(plot->to,
                        ", %.10g with lines dt 2 lw 0.8 lc rgb '%s' notitle, "
                        "%.10g with lines dt 2 lw 0.8 lc rgb '%s' notitle",
                        mark_of(panel, mark, "start"), colours[l],
                        mark_of(panel, mark, "stop"), colours[l]);
    }
}

static void write_panel(const struct plot *plot, const struct panel *panel)
{
    fprintf(plot->to, "set ylabel ");
    drawing_text(&plot->drawing, panel->unit, false);
    fprintf(plot->to, " noenhanced\nset autoscale y\n");
    if (strchr(panel->unit, '%'))
        fprintf(plot->to, "set yrange [0:100]\n");
    fprintf(plot->to, "plot ");
    for (int l = 0; l < panel->count; l++) {
        fprintf(plot->to,
                "%s'levels.csv' using ($1/86400):($%d*%.9g+%g) with lines "
                "lw 1.6 lc rgb '%s' title ",
                l ? ", " : "", panel->columns[l], panel->as.times,
                panel->as.plus, colours[l]);
        drawing_text(&plot->drawing, panel->names[l], false);
    }
    write_marks(plot, panel);
    /* so that there is a line to draw when nothing was ever read */
    fprintf(plot->to, ", NaN notitle\nset autoscale y\n");
}

/* Nights by the clock of the days: 21:00 to 05:00, behind everything. */
static void write_nights(const struct plot *plot)
{
    int object = 1;
    for (int day = -1; day < plot->days && object < 800; day++)
        fprintf(plot->to,
                "set object %d rectangle from first %.4f, graph 0 to first "
                "%.4f, graph 1 fc rgb '#e9e6f2' fs solid noborder behind\n",
                object++, day + 21 / 24.0, day + 1 + 5 / 24.0);
}

/* Whether an event is of a pump, which row it has then. */
static int row_of(const struct plot *plot, json_t *event)
{
    size_t i;
    json_t *pump;
    const char *of = text_of(event, "of");
    json_array_foreach(json_object_get(plot->site, "pumps"), i,
                       pump) if (json_is_string(pump) &&
                                 strcmp(json_string_value(pump), of) ==
                                     0) return (int)i;
    return -1;
}

enum span { RUN, BLOCK, FLAG, SPANS };

static void write_span(FILE *const *to, int row, double from_s, double to_s,
                       enum span what)
{
    fprintf(to[what], "%d %.6f %.6f\n", row, from_s / 86400, to_s / 86400);
}

/* What stands for each row: a run, a block; when it began, or -1. */
#define ROWS_MOST 256
struct standing {
    double on[ROWS_MOST];
    double off[ROWS_MOST];
};

static bool is_one_of(const char *kind, const char *const *kinds)
{
    for (; *kinds; kinds++)
        if (strcmp(kind, *kinds) == 0)
            return true;
    return false;
}

static void end_span(FILE *const *to, int row, double *since, double s,
                     enum span what)
{
    if (*since >= 0)
        write_span(to, row, *since, s, what);
    *since = -1;
}

static void take_event(const struct plot *plot, json_t *event,
                       struct standing *standing, FILE *const *to)
{
    static const char *const flags[] = {"alert", "leak", "trip", NULL};
    const char *kind = text_of(event, "kind");
    double s = json_number_value(json_object_get(event, "s"));
    int row = row_of(plot, event);
    if (is_one_of(kind, flags))
        write_span(to, row, s, s, FLAG);
    if (row < 0 || row >= ROWS_MOST)
        return;
    if (strcmp(kind, "start") == 0)
        standing->on[row] = s;
    if (strcmp(kind, "stop") == 0)
        end_span(to, row, &standing->on[row], s, RUN);
    if (strcmp(kind, "block") == 0 && standing->off[row] < 0)
        standing->off[row] = s;
    if (strcmp(kind, "clear") == 0)
        end_span(to, row, &standing->off[row], s, BLOCK);
}

/* Runs, blocks and alerts as spans, a file each. */
static void write_spans(const struct plot *plot, FILE *const *to)
{
    char path[PATH_MAX];
    char *line = NULL;
    size_t size = 0;
    struct standing standing;
    for (int i = 0; i < ROWS_MOST; i++)
        standing.on[i] = standing.off[i] = -1;
    snprintf(path, sizeof(path), "%s/events.jsonl", plot->dir);
    FILE *in = fopen(path, "r");
    while (in && getline(&line, &size, in) > 0) {
        json_t *event = json_loads(line, 0, NULL);
        if (event)
            take_event(plot, event, &standing, to);
        json_decref(event);
    }
    for (int i = 0; i < ROWS_MOST; i++) {
        end_span(to, i, &standing.on[i], plot->days * 86400, RUN);
        end_span(to, i, &standing.off[i], plot->days * 86400, BLOCK);
    }
    free(line);
    if (in)
        fclose(in);
}

static void write_runs(const struct plot *plot)
{
    json_t *pumps = json_object_get(plot->site, "pumps");
    int count = (int)json_array_size(pumps);
    fprintf(plot->to,
            "set ylabel ''\nunset key\nset yrange [-1.6:%d.6]\nset ytics (",
            count > 0 ? count - 1 : 0);
    for (int row = 0; row < count && row < ROWS_MOST; row++) {
        const char *name =
            json_string_value(json_array_get(pumps, (size_t)row));
        drawing_text(&plot->drawing, name ? name : "", true);
        fprintf(plot->to, " %d, ", row);
    }
    fprintf(plot->to,
            "'alerts' -1)\nplot 'block.txt' using "
            "2:1:2:3:($1-0.38):($1+0.38) with boxxyerror fs pattern 4 border "
            "fc rgb '#b03a2e' lc rgb '#b03a2e', 'run.txt' using "
            "2:1:2:3:($1-0.28):($1+0.28) with boxxyerror fs solid 1 border fc "
            "rgb '#1b6e8c' lc rgb '#1b6e8c', 'flag.txt' using 2:1 with points "
            "pt 9 ps 1.2 lc rgb '#b03a2e', NaN notitle\n");
}

/* How a picture's name ends says what it is: null when neither. */
static const char *form_of(const char *path)
{
    const char *dot = strrchr(path, '.');
    if (!dot || strchr(dot, '/'))
        return NULL;
    if (strcmp(dot, ".svg") == 0)
        return "svg";
    return strcmp(dot, ".png") == 0 ? "pngcairo" : NULL;
}

static void write_all(const struct plot *plot, const char *to)
{
    double height = 0.94;
    double runs = 0.34;
    double each = (height - runs) / (plot->panel_count ? plot->panel_count : 1);
    fprintf(plot->to,
            "set terminal %s size 1280,%d font 'DejaVu Sans,%d' "
            "background rgb 'white'\nset output '" DRAWING_PICTURE
            "'\nset datafile separator "
            "','\nset multiplot\nset lmargin at screen 0.10\nset rmargin at "
            "screen 0.87\nset xrange [0:%.6f]\nset grid xtics lc rgb "
            "'#cccccc'\nset border 3\nset tics nomirror\nset key outside right "
            "center\nset format x ''\nset key noenhanced\nset title ",
            form_of(to), 800, 10, plot->days > 0 ? plot->days : 1);
    drawing_text(&plot->drawing, text_of(plot->site, "name"), false);
    fprintf(plot->to, " noenhanced\n");
    write_nights(plot);
    for (int p = 0; p < plot->panel_count; p++) {
        fprintf(plot->to,
                "set tmargin at screen %.4f\nset bmargin at screen %.4f\n",
                height - p * each, height - (p + 1) * each + 0.02);
        write_panel(plot, &plot->panels[p]);
        fprintf(plot->to, "unset title\n");
    }
    fprintf(plot->to,
            "set tmargin at screen %.4f\nset bmargin at screen 0.07\nset "
            "format x '%%g'\nset xlabel 'days'\nset datafile separator "
            "whitespace\nset ytics noenhanced\n",
            runs - 0.02);
    write_runs(plot);
    fprintf(plot->to, "unset multiplot\n");
}

static bool open_spans(const struct plot *plot, FILE **spans)
{
    static const char *const names[] = {"run.txt", "block.txt", "flag.txt"};
    bool good = true;
    for (int i = 0; i < SPANS; i++)
        good &= (spans[i] = drawing_file(&plot->drawing, names[i])) != NULL;
    return good;
}

static bool write_data(const struct plot *plot)
{
    char path[PATH_MAX];
    FILE *spans[SPANS];
    bool good = open_spans(plot, spans);
    if (good)
        write_spans(plot, spans);
    for (int i = 0; i < SPANS; i++)
        good &= spans[i] && fclose(spans[i]) == 0;
    snprintf(path, sizeof(path), "%s/levels.csv", plot->dir);
    return good && drawing_link(&plot->drawing, "levels.csv", path);
}

static int draw(struct plot *plot, const char *to)
{
    if (!drawing_begin(&plot->drawing))
        return EXIT_OUTSIDE;
    plot->to = plot->drawing.script;
    if (!write_data(plot)) {
        drawing_drop(&plot->drawing);
        return EXIT_OUTSIDE;
    }
    write_all(plot, to);
    return drawing_end(&plot->drawing, to) ? EXIT_DONE : EXIT_OUTSIDE;
}

/* What site.json says; null, which was told, when it cannot be read. */
static json_t *read_site(const char *dir, int *code)
{
    char path[PATH_MAX];
    json_error_t error;
    snprintf(path, sizeof(path), "%s/site.json", dir);
    FILE *in = fopen(path, "r");
    if (!in) {
        *code = EXIT_USAGE;
        fprintf(
            stderr,
            "cuplatch: %s: %s; expected a folder that rehearse --out made\n",
            path, strerror(errno));
        return NULL;
    }
    *code = EXIT_OUTSIDE;
    json_t *site = json_loadf(in, 0, &error);
    fclose(in);
    if (json_is_object(site))
        return site;
    fprintf(stderr, "cuplatch: %s: %s\n", path,
            site ? "expected an object" : text_mend(error.text));
    json_decref(site);
    return NULL;
}

int plot_record(const char *dir, const char *to)
{
    int code;
    struct plot plot = {.dir = dir, .days = days_of(dir)};
    plot.site = read_site(dir, &code);
    if (!plot.site)
        return code;
    sort_levels(&plot);
    code = draw(&plot, to);
    json_decref(plot.site);
    return code;
}

int plot_main(int argc, const char **argv)
{
    char *to = NULL;
    struct poptOption options[] = {{"output", 'o', POPT_ARG_STRING, &to, 0,
                                    "the picture: .png or .svg", "FILE"},
                                   POPT_AUTOHELP POPT_TABLEEND};
    struct words words;
    int code = EXIT_USAGE;
    if (!words_read(&words, argc, argv, options, "DIR -o FILE", 1, 1))
        code = EXIT_USAGE;
    else if (!to)
        code = wrong_use(&words, "%s needs -o FILE", words.list[0]);
    else if (!form_of(to))
        code = wrong_use(
            &words, "-o %s: expected a file that ends with .png or .svg", to);
    else
        code = plot_record(words.list[0], to);
    free(to);
    words_free(&words);
    return code;
}
