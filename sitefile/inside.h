/* What the files of this room share: a file with its things and its plan. */
#ifndef CUPLATCH_SITEFILE_INSIDE_H
#define CUPLATCH_SITEFILE_INSIDE_H

#include "problems.h"
#include "sitefile.h"
#include "things.h"

/* The tables of a plan under construction, each as long as its kind counts. */
struct tables {
    struct cup_sensor *sensors;
    struct cup_tank *tanks;
    struct cup_pump *pumps;
    struct cup_duty *duties;
    struct cup_curve *curves; /* a sensor's, then two a tank */
    struct cup_knot *knots;   /* CUP_CURVE_POINTS for each curve */
    const char **names;
};

struct cup_file {
    char *path;
    struct ini_file ini;
    struct things things;
    struct problems problems;
    struct tables tables;
    struct cup_plan plan;
};

/* Turns the things into the plan, checking what needs more than one key. */
void plan_make(struct cup_file *file);
void plan_free(struct cup_file *file);

/* The lowest and highest value a sensor or a tank can show. */
struct span {
    int32_t low;
    int32_t high;
};
struct span span_of(const struct cup_plan *plan, cup_index thing);

#endif
