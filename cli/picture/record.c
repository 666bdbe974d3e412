/* What a rehearsal left, as one picture on one time axis: sun and rain, levels
 * with their marks and the truth behind them, what went wrong, runs, what kept
 * pumps off, alerts. gnuplot draws. */
#include <math.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "../common/cli.h"
#include "../common/json_in.h"
#include "picture.h"
#include "record.h"

static bool write_file(const struct picture *picture, int panel)
{
    char name[DRAWING_NAME_SIZE];
    drawing_data(name, panel);
    FILE *out = drawing_file(&picture->drawing, name);
    if (!out)
        return false;
    if (panel < picture->panel_count)
        picture_level_data(picture, panel, out);
    else
        picture_sky_data(picture, out);
    return fclose(out) == 0;
}

/* The time axis */

static void tic(const struct picture *picture, double s, const char *form,
                bool labelled, const char **between)
{
    char text[60] = "";
    time_t clock = (time_t)s;
    struct tm tm;
    if (labelled && gmtime_r(&clock, &tm))
        strftime(text, sizeof(text), form, &tm);
    fprintf(picture->to, "%s\"%s", *between, text);
    if (labelled && strstr(form, "%d") && picture->days <= 92)
        fprintf(picture->to, "\\nday %.0f",
                floor((s - picture->begin) / DAY_S + 1e-9) + 1);
    fprintf(picture->to, "\" %.0f", s);
    *between = ", ";
}

/* The first of each month, of long years January only. */
static void month_tics(const struct picture *picture, bool labelled,
                       const char **between)
{
    bool years = picture->days > 800;
    double first = ceil(picture->begin / DAY_S);
    for (int day = 0; (first + day) * DAY_S <= picture->end; day++) {
        double s = (first + day) * DAY_S;
        time_t clock = (time_t)s;
        struct tm tm;
        if (!gmtime_r(&clock, &tm) || tm.tm_mday != 1 ||
            (years && tm.tm_mon > 0))
            continue;
        tic(picture, s, tm.tm_mon == 0 ? "%b\\n%Y" : "%b", labelled, between);
    }
}

static void write_tics(const struct picture *picture, bool labelled)
{
    const char *between = "set xtics scale 0.4 (";
    double step = picture->days > 21 ? 7 * DAY_S : DAY_S;
    if (picture->days <= 2)
        step = picture->days <= 0.4 ? 1800 : 3 * 3600;
    if (picture->days > 92)
        month_tics(picture, labelled, &between);
    else
        for (int i = 0; picture->begin + i * step <= picture->end; i++) {
            double s = picture->begin + i * step;
            tic(picture, s, fmod(s, DAY_S) == 0 ? "%d %b" : "%H:%M", labelled,
                &between);
        }
    if (*between == 's') /* there was none */
        tic(picture, picture->begin, "%d %b", labelled, &between);
    fprintf(picture->to, ")\n");
}

const char *picture_form(const char *path)
{
    const char *dot = strrchr(path, '.');
    if (!dot || strchr(dot, '/'))
        return NULL;
    if (strcmp(dot, ".svg") == 0)
        return "svg";
    return strcmp(dot, ".png") == 0 ? "pngcairo" : NULL;
}

static void write_head(const struct picture *picture, const char *to)
{
    fprintf(picture->to,
            "set terminal %s size 1280,800 font 'DejaVu Sans,9' background rgb "
            "'white'\nset output '" DRAWING_PICTURE "'\nset multiplot\n"
            "set lmargin at screen 0.085\nset rmargin at screen 0.87\n"
            "set xrange [%.0f:%.0f]\nset grid xtics lc rgb '#cccccc'\n"
            "set border 3\nset ytics nomirror\nset key outside right center "
            "noenhanced samplen 1.5\nset label 1 ",
            picture_form(to), picture->begin, picture->end);
    drawing_text(&picture->drawing, text_in(picture->figures.site, "name"),
                 false);
    fprintf(picture->to,
            " at screen 0.085,0.975 font ',13' noenhanced\n"
            "set label 2 '%shatched: kept off, and why; triangles: alerts, "
            "trips, leaks' at screen 0.87,0.975 right font ',8' tc rgb "
            "'#555555'\n",
            picture->figures.truth.columns > 0 ? "pale and wide: the truth; "
                                               : "");
}

static void place(const struct picture *picture, double top, double bottom)
{
    fprintf(picture->to,
            "set tmargin at screen %.4f\nset bmargin at screen %.4f\n", top,
            bottom);
}

static void write_all(struct picture *picture, const char *to)
{
    const double bottom = 0.065;
    bool sky = picture->figures.truth.columns > 0;
    double runs = fmin(0.032 * (picture->spans.rows + 3), 0.37);
    double top = 0.955;
    double skies = sky ? 0.08 : 0;
    double each = (top - skies - bottom - runs) /
                  (picture->panel_count ? picture->panel_count : 1);
    write_head(picture, to);
    picture_nights(picture);
    write_tics(picture, false);
    picture->labels += 2;
    if (sky) {
        place(picture, top, top - skies + 0.015);
        picture_sky(picture);
        fprintf(picture->to, "unset label\n");
    }
    for (int p = 0; p < picture->panel_count; p++) {
        place(picture, top - skies - p * each,
              top - skies - (p + 1) * each + 0.014);
        if (p > 0 || sky)
            fprintf(picture->to, "unset label\n");
        picture_levels(picture, p);
    }
    place(picture, bottom + runs - 0.012, bottom);
    write_tics(picture, true);
    picture_runs(picture);
    fprintf(picture->to, "unset multiplot\n");
}

static int draw(struct picture *picture, const char *to)
{
    bool good = true;
    if (!drawing_begin(&picture->drawing))
        return EXIT_OUTSIDE;
    picture->to = picture->drawing.script;
    for (int p = 0; p <= picture->panel_count; p++)
        good = good && write_file(picture, p);
    if (!good) {
        drawing_drop(&picture->drawing);
        return EXIT_OUTSIDE;
    }
    write_all(picture, to);
    return drawing_end(&picture->drawing, to) ? EXIT_DONE : EXIT_OUTSIDE;
}

int plot_record(const char *dir, const char *to)
{
    struct picture picture = {.labels = 2};
    int code = figures_read(&picture.figures, dir);
    if (code == EXIT_DONE) {
        picture.begin = picture.figures.from_s;
        picture.end = picture.begin + picture.figures.span_s;
        picture.days = picture.figures.span_s / DAY_S;
        spans_read(&picture.spans, dir, picture.figures.site,
                   picture.figures.span_s);
        picture_sort_levels(&picture);
        code = draw(&picture, to);
        spans_free(&picture.spans);
    }
    figures_free(&picture.figures);
    return code;
}
