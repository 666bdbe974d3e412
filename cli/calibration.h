/* A calibration under way: which sensor, which two ends, and what of the file
 * they change. */
#ifndef CUPLATCH_CALIBRATION_H
#define CUPLATCH_CALIBRATION_H

#include "cli.h"
#include "samples.h"

/* What is put into the file: `dry` and `wet` of a sensor, its `points`, or
 * `depth` and `gap` of its tank. */
enum way { WAY_NONE, WAY_MARKS, WAY_POINTS, WAY_TANK };

struct calibration {
    struct site site;
    struct words *words;
    struct sampling sampling;
    cup_index sensor;
    cup_index tank; /* whose distance it measures; CUP_NONE: none */
    struct end ends[2];
    int32_t known[2]; /* values of the ends, in steps of the unit */
    enum way way;
    bool yes;
};

static inline const struct cup_sensor *
sensor_of(const struct calibration *calibration)
{
    return &calibration->site.site.plan->sensors[calibration->sensor];
}

static inline const char *name_of(const struct calibration *calibration)
{
    return calibration->words->list[1];
}

/* What the file says for a key of the sensor; null when it does not. */
static inline const char *said(const struct calibration *calibration,
                               const char *key)
{
    return cup_file_value(calibration->site.file, name_of(calibration), key);
}

/* Finds out which two ends the sensor needs, unless that was said, and whether
 * it can have them. Returns EXIT_DONE, or what to exit with: told then. */
int calibration_choose(struct calibration *calibration);

#endif
