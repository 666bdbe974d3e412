/* Events and levels as JSON, the same for every port and command. */
#ifndef CUPLATCH_PORTS_JSON_H
#define CUPLATCH_PORTS_JSON_H

#include <jansson.h>
#include <stdio.h>

#include "cuplatch/site.h"

/* How numbers are written: enough digits for every value, no noise. */
#define CUP_JSON_FORMAT (JSON_COMPACT | JSON_REAL_PRECISION(12))

/* A value in its unit, as a number. */
json_t *cup_json_value(int32_t value, uint8_t unit);

/* {"t_ms", "kind", "of", "reason", "value", "limit", "unit", "why"}; the
 * numbers only where the reason has them. The caller owns it. */
json_t *cup_json_event(CUP_FLASH struct cup_plan *plan,
                       const struct cup_event *event);

/* Every sensor and tank by name: {"value", "unit", "quality"}, and the
 * "reason" where it is not good. The caller owns it. */
json_t *cup_json_levels(const struct cup_site *site);

/* Adds what a tank's level may be, low and high, and why it is unsure, where it
 * is not its number. */
void cup_json_span(const struct cup_site *site, cup_index thing, json_t *level);

/* Every output by name, 1 when on. The caller owns it. */
json_t *cup_json_outputs(const struct cup_site *site);

/* Writes one line, and lets go of the value. */
void cup_json_line(FILE *out, json_t *value);

#endif
