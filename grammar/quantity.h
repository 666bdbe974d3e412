/* Quantities as a grower writes them: a number and its unit. */
#ifndef CUPLATCH_GRAMMAR_QUANTITY_H
#define CUPLATCH_GRAMMAR_QUANTITY_H

#include <stdint.h>

#include "cuplatch/reason.h"

/* Reads "35%", "1.6m" or "2h30m" in the unit's integer steps (see CUP_UNITS)
 * into `value`, rounded half away from zero. Returns null, or what is wrong
 * in words, in a buffer that the next call uses again. */
const char *quantity_read(const char *text, enum cup_unit unit, int32_t *value);

/* The same of a difference, such as a band: 9F are 5C. */
const char *quantity_read_change(const char *text, enum cup_unit unit,
                                 int32_t *value);

/* A time of any length, such as 40d, in s. */
const char *quantity_read_time(const char *text, double *s);

/* Reads a plain whole number, as of raw counts, from `low` to `high`. */
const char *quantity_read_whole(const char *text, int32_t low, int32_t high,
                                int32_t *value);

/* Reads an angle from straight down, "8deg", up to QUANTITY_TILT_MOST: the part
 * of a way along it that leads straight down. */
#define QUANTITY_TILT_MOST 45
const char *quantity_read_tilt(const char *text, double *upright);

/* A quantity as words: "a level in %". */
const char *quantity_kind(enum cup_unit unit);

/* Whether a text is a number without a unit. */
bool quantity_is_bare(const char *text);

#endif
