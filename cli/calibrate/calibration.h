/* A calibration under way: which sensor, which two ends, and what of the file
 * they change. */
#ifndef CUPLATCH_CLI_CALIBRATE_CALIBRATION_H
#define CUPLATCH_CLI_CALIBRATE_CALIBRATION_H

#include "../../grammar/edit.h"
#include "../common/cli.h"
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

/* What goes into the file; the texts of `list` may be in `values`. */
struct edits {
    struct cup_edit list[2];
    char values[2][80];
    size_t count;
};

/* Shows the change, asks, and makes it. Returns an exit code. */
int calibration_write(struct calibration *calibration,
                      const struct edits *edits);

/* A pump that is to be run: for how long (2m when null), or until which float
 * answers, and at which socket its controller is (the only one when null). */
struct timing_wish {
    const char *pump;
    const char *span;
    const char *until;
    const char *socket;
};

/* Runs a pump by hand, by its controller, and writes its flow from what its
 * tank rose or fell, or how long its flood takes until the float answers. The
 * site is open. Returns an exit code. */
int calibration_time(struct calibration *calibration,
                     const struct timing_wish *wish);

/* Finds out which two ends the sensor needs, unless that was said, and whether
 * it can have them. Returns EXIT_DONE, or what to exit with: told then. */
int calibration_choose(struct calibration *calibration);

/* Tells what is wrong with the samples of an end. Returns EXIT_USAGE. */
int calibration_wrong_samples(const struct end *end);

#endif
