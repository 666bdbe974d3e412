/* A sensor of our own, alone on the bench. */
#ifndef CUPLATCH_TESTS_ALONE_H
#define CUPLATCH_TESTS_ALONE_H

#include <string.h>

#include "../harness/edge.h"
#include "../harness/harness.h"
#include "cuplatch/sensor.h"

/* What it says is the raw value, unless it has a curve. */
static const struct cup_knot straight[] = {{0, 0, 0, 1}, {65535, 0, 65535, 0}};
static const struct cup_curve same = {straight, 2, false};

struct bench {
    struct cup_sensor sensor;
    struct cup_checks checks;
    struct cup_sensor_state state;
    struct cup_tally_state tally;
    struct cup_checks_state memory;
    struct cup_stream_state stream;
    uint16_t cells[3];
    uint8_t order[3];
    struct cup_sensor_use use;
};

static inline void set_up(struct bench *bench, enum cup_form form)
{
    memset(bench, 0, sizeof(*bench));
    bench->sensor = (struct cup_sensor){
        CUP_SENSOR_ALONE,       .curve = &same,        .every_ms = 1000,
        .lost_after_ms = 60000, .highest = UINT16_MAX, .window = {1, 0},
        .form = (uint8_t)form};
    bench->use = (struct cup_sensor_use){.sensor = &bench->sensor,
                                         .state = &bench->state,
                                         .tally = &bench->tally,
                                         .cells = bench->cells,
                                         .order = bench->order};
    cup_sensor_boot(&bench->sensor, &bench->state, 0);
}

/* The same with checks, which are the caller's to set. */
static inline struct cup_checks *set_up_checks(struct bench *bench,
                                               enum cup_form form)
{
    set_up(bench, form);
    bench->checks.near = INT32_MIN;
    bench->sensor.checks = &bench->checks;
    bench->use.checks = &bench->memory;
    return &bench->checks;
}

static inline uint8_t hear(struct bench *bench, uint32_t now_ms, int32_t raw)
{
    cup_sensor_hear(&bench->use, now_ms, (struct cup_sample){.raw = raw});
    return bench->state.reading.reason;
}

static inline void hear_bytes(struct bench *bench, const void *bytes,
                              size_t count)
{
    bool is_stream = bench->sensor.form == CUP_FORM_RANGE_BYTES ||
                     bench->sensor.form == CUP_FORM_RANGE_TEXT;
    cup_sensor_hear_bytes(&bench->use, is_stream ? &bench->stream : NULL, 1000,
                          edge_copy(bytes, count), count);
}

#endif
