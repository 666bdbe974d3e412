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
    struct cup_day *days;     /* one a pump, used or not */
    struct cup_proof *proofs; /* one a pump, used or not */
    struct cup_guard *guards; /* CUP_GUARD_COUNT for each pump */
    struct cup_duty *duties;
    struct cup_source *sources;
    struct cup_checks *checks; /* one a sensor, used or not */
    struct cup_curve *curves;  /* a sensor's, then two a tank */
    struct cup_knot *knots;    /* CUP_CURVE_POINTS for each curve */
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

/* Tables as long as the things need; in plan_tables.c. */
void plan_make_tables(struct cup_file *file);

/* Turns the things into the plan, checking what needs more than one key. */
void plan_make(struct cup_file *file);
void plan_free(struct cup_file *file);

/* Sensors and the blocks they take values of; in plan_sensor.c. */
void plan_make_sensor(struct cup_file *file, const struct thing *thing);
void plan_make_source(struct cup_file *file, const struct thing *thing);

/* Tanks; in plan_tank.c. */
void plan_make_tank(struct cup_file *file, const struct thing *thing);

/* How far a tank's curve is from its true shape at the worst, in per cent of
 * its volume. */
double plan_tank_error(const struct cup_file *file, cup_index tank);

/* Pumps and their guards; in plan_pump.c. */
void plan_make_pump(struct cup_file *file, const struct thing *thing);

/* A mark that fills a tank must lie below where the pump's guard calls it
 * full. */
void plan_check_full(struct cup_file *file, const struct thing *pump,
                     const struct value *keep, const struct value *stop);

/* Numbers the supplies and channels that sensors share; before they are
 * made. */
void plan_share(struct cup_file *file);

/* A sensor's checks, which it then has. */
struct cup_checks *plan_checks(struct cup_file *file, cup_index sensor);

/* The curve of a number, and its making. */
struct cup_curve *plan_curve(struct cup_file *file, size_t number);
enum cup_error plan_make_curve(struct cup_file *file, size_t number,
                               const struct cup_point *points, uint8_t count,
                               bool clamp);

/* The number in the plan of the thing at a place among the things. */
cup_index plan_number(const struct cup_file *file, int32_t place);

/* The lowest and highest value a sensor or a tank can show. */
struct span {
    int32_t low;
    int32_t high;
};
struct span span_of(const struct cup_plan *plan, cup_index thing);

#endif
