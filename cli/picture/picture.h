/* A picture of what a rehearsal left, in the making: what its parts share. */
#ifndef CUPLATCH_CLI_PICTURE_PICTURE_H
#define CUPLATCH_CLI_PICTURE_PICTURE_H

#include "colours.h"
#include "draw.h"
#include "figures.h"
#include "spans.h"

#define PANELS_MOST 8
#define LINES_MOST COLOURS
#define DAY_S 86400.0

/* Levels of one unit share a panel: so many times the number that is kept, and
 * so much more. */
struct panel {
    double times, plus;
    const char *unit;
    int columns[LINES_MOST];
    const char *names[LINES_MOST];
    int count;
};

/* `begin` and `end` are of the clock; labels are numbered in a row with objects
 * and arrows. */
struct picture {
    struct figures figures;
    struct spans spans;
    struct drawing drawing;
    FILE *to; /* its script */
    struct panel panels[PANELS_MOST];
    int panel_count;
    double days;
    double begin, end;
    int labels;
    int rows; /* of what went wrong */
};

/* Past so many days, runs are drawn as hours of each day, and nights are not.
 */
static inline bool picture_is_long(const struct picture *picture)
{
    return picture->days > 21;
}

/* How a picture's name ends says what it is, as gnuplot calls it; null when it
 * is neither .png nor .svg. */
const char *picture_form(const char *path);

bool picture_is_us(const struct picture *picture);

/* A text at a place, and how it looks. */
void picture_text(struct picture *picture, const char *text, double x, double y,
                  const char *look);

/* Which levels are shown, each in its panel; a panel's data; its lines. */
void picture_sort_levels(struct picture *picture);
void picture_level_data(const struct picture *picture, int panel, FILE *out);
void picture_levels(struct picture *picture, int panel);

/* Sun and rain, and the nights behind everything. */
void picture_sky_data(const struct picture *picture, FILE *out);
void picture_sky(const struct picture *picture);
void picture_nights(struct picture *picture);

/* What went wrong, runs, what kept pumps off, alerts. */
void picture_runs(struct picture *picture);

#endif
