/* From a raw sample to a reading: check, smooth, convert, and grow old. */
#include "cuplatch/sensor.h"

void cup_sensor_boot(CUP_FLASH struct cup_sensor *sensor,
                     struct cup_sensor_state *state, uint32_t now_ms)
{
    state->good_ms = now_ms;
    state->reading.unit = sensor->unit;
    state->reading.quality = CUP_QUALITY_HELD;
    state->reading.reason = CUP_REASON_NO_READING;
}

static void drop(struct cup_sensor_state *state, unsigned flags)
{
    state->reading.flags = (uint8_t)(state->reading.flags & ~flags);
}

void cup_sensor_stale(struct cup_sensor_state *state)
{
    cup_window_clear(&state->window);
    drop(state, CUP_READING_FRESH);
}

static void lose(struct cup_sensor_state *state)
{
    state->reading.quality = CUP_QUALITY_LOST;
    drop(state, CUP_READING_KNOWN);
    cup_sensor_stale(state);
}

static uint8_t judge(CUP_FLASH struct cup_sensor *sensor,
                     struct cup_sample sample)
{
    if (sample.reject != CUP_REASON_NONE)
        return sample.reject <= CUP_REJECTS ? sample.reject
                                            : CUP_REASON_NO_ANSWER;
    if (sample.raw == sensor->silent)
        return CUP_REASON_NO_ANSWER;
    if (sample.raw < sensor->offset)
        return CUP_REASON_IMPLAUSIBLE;
    uint32_t stored = (uint32_t)sample.raw - (uint32_t)sensor->offset;
    if (stored < sensor->lowest || stored > sensor->highest)
        return CUP_REASON_IMPLAUSIBLE;
    return CUP_REASON_NONE;
}

static void reject(struct cup_sensor_state *state, uint8_t reason)
{
    uint16_t *count = &state->rejected[reason - 1];
    if (*count < UINT16_MAX)
        ++*count;
    state->reading.reason = reason;
    if (state->reading.quality == CUP_QUALITY_GOOD)
        state->reading.quality = CUP_QUALITY_HELD;
}

static void accept(CUP_FLASH struct cup_sensor *sensor,
                   struct cup_sensor_state *state, uint16_t *cells,
                   uint16_t stored)
{
    struct cup_reading *reading = &state->reading;
    state->latest = stored;
    cup_window_add(sensor->window, &state->window, cells, stored);
    reading->value = cup_curve_at(
        sensor->curve, cup_window_mean(sensor->window, &state->window, cells));
    reading->quality = CUP_QUALITY_GOOD;
    reading->reason = CUP_REASON_NONE;
    reading->flags |= CUP_READING_KNOWN | CUP_READING_FRESH | CUP_READING_NEW;
}

void cup_sensor_hear(CUP_FLASH struct cup_sensor *sensor,
                     struct cup_sensor_state *state, uint16_t *cells,
                     uint32_t now_ms, struct cup_sample sample)
{
    uint8_t reason = judge(sensor, sample);
    if (reason != CUP_REASON_NONE) {
        reject(state, reason);
        return;
    }
    if (cup_elapsed(now_ms, state->good_ms) >= sensor->lost_after_ms)
        cup_sensor_stale(state);
    state->good_ms = now_ms;
    accept(sensor, state, cells,
           (uint16_t)((uint32_t)sample.raw - (uint32_t)sensor->offset));
}

uint32_t cup_sensor_age(CUP_FLASH struct cup_sensor *sensor,
                        struct cup_sensor_state *state, uint32_t now_ms)
{
    if (state->reading.quality == CUP_QUALITY_LOST)
        return UINT32_MAX;
    uint32_t left = cup_left(now_ms, state->good_ms, sensor->lost_after_ms);
    if (left > 0)
        return left;
    lose(state);
    return UINT32_MAX;
}

struct cup_cause cup_unusable(cup_index about, struct cup_reading reading,
                              uint8_t lost, uint8_t unknown)
{
    return (struct cup_cause){
        .about = about,
        .reason = reading.quality == CUP_QUALITY_LOST ? lost : unknown,
    };
}
