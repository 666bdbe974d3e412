/* A sensor in the making, shared by the files that make it: its form, its
 * curve, its checks. */
#ifndef CUPLATCH_SITEFILE_MAKING_H
#define CUPLATCH_SITEFILE_MAKING_H

#include "../inside.h"

/* Raw values below 0 are stored with this offset. */
#define SIGNED (-32768)

/* What a form gives by itself: its unit and a line through two points of
 * stored raw values; and the offset of those. CUP_UNIT_NONE: nothing, it
 * needs dry and wet, points, or a scale. */
struct nature {
    enum cup_unit unit;
    int32_t offset;
    struct cup_point line[2];
};

/* A sensor in the making. */
struct making {
    struct cup_file *file;
    const struct thing *thing;
    struct cup_sensor *sensor;
    enum cup_form form;
};

/* Tells of an error at a place. */
void making_wrong(const struct making *making, struct place place,
                  const char *message);

/* The place of a key, or of the sensor when it is not given. */
struct place making_place(const struct making *making, const char *key);

bool making_given(const struct making *making, const char *key);

/* What the sensor's form needs besides to be a value, as its row says; whether
 * it comes as a stream. */
enum need { NEED_NOTHING, NEED_MARKS, NEED_MEASURES };
bool making_needs(const struct making *making, enum need need);
bool making_streams(const struct making *making);

/* What the sensor's form gives by itself. */
struct nature making_nature(const struct making *making);

/* The sensor's curve: of dry and wet, of points, or of its nature. */
void making_curve(const struct making *making, const struct nature *nature);

/* What a sample must be to count, and how its value is shown; in
 * plan_sensor.c. */
void making_checks(const struct making *making);

#endif
