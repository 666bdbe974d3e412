/* From a raw sample to a reading: judge, smooth, convert, and grow old. */
#include "cuplatch/sensor.h"

#include "checks.h"
#include "value.h"

void cup_sensor_boot(CUP_FLASH struct cup_sensor *sensor,
                     struct cup_sensor_state *state, uint32_t now_ms)
{
    state->good_ms = now_ms;
    CUP_WHERE(VALUES, state->reading.unit = sensor->unit;)
    (void)sensor;
    state->reading.quality = CUP_QUALITY_HELD;
    state->reading.reason = CUP_REASON_NO_READING;
}

static void drop_flags(struct cup_sensor_state *state, unsigned flags)
{
    state->reading.flags = (uint8_t)(state->reading.flags & ~flags);
}

void cup_sensor_stale(struct cup_sensor_state *state)
{
    cup_window_clear(&state->window);
    drop_flags(state, CUP_READING_FRESH);
}

static void lose(struct cup_sensor_state *state)
{
    state->reading.quality = CUP_QUALITY_LOST;
    drop_flags(state, CUP_READING_KNOWN);
    cup_sensor_stale(state);
}

/* What a form itself says of a raw value. */
static uint8_t judge_form(CUP_FLASH struct cup_sensor *sensor, int32_t raw)
{
    if (sensor->form == CUP_FORM_ECHO)
        return raw == 0 ? CUP_REASON_NO_ANSWER : CUP_REASON_NONE;
    return CUP_IF(LOOPS, sensor->form == CUP_FORM_LOOP) ? cup_loop(raw).reject
                                                        : CUP_REASON_NONE;
}

#if CUP_USES_NOTHINGS
/* Whether a raw value is a code for nothing there. */
static bool is_nothing(CUP_FLASH struct cup_sensor *sensor, int32_t raw)
{
    for (uint8_t i = 0; i < sensor->nothing_count; i++)
        if (sensor->nothing[i] == raw)
            return true;
    return false;
}
#endif

/* Judges a raw value, and what is stored of it. */
static uint8_t judge(CUP_FLASH struct cup_sensor *sensor, int32_t raw,
                     uint32_t stored)
{
    uint8_t reason = judge_form(sensor, raw);
    if (reason != CUP_REASON_NONE)
        return reason;
    if (CUP_IF(NOTHINGS, is_nothing(sensor, raw)))
        return CUP_REASON_NO_ANSWER;
    if (CUP_IF(OFFSETS, raw < sensor->offset) || stored > UINT16_MAX ||
        (uint16_t)stored < sensor->lowest || (uint16_t)stored > sensor->highest)
        return CUP_REASON_IMPLAUSIBLE;
    return CUP_REASON_NONE;
}

#if CUP_USES_TALLIES
/* When there is somebody who counts. */
static void count_rejected(struct cup_tally_state *tally, uint8_t reason)
{
    if (!tally)
        return;
    uint16_t *count = &tally->rejected[reason - 1];
    if (*count < UINT16_MAX)
        ++*count;
}
#endif

static void reject(const struct cup_sensor_use *use, uint8_t reason)
{
    struct cup_sensor_state *state = use->state;
    CUP_WHERE(TALLIES, count_rejected(use->tally, reason);)
    state->reading.reason = reason;
    if (state->reading.quality == CUP_QUALITY_GOOD)
        state->reading.quality = CUP_QUALITY_HELD;
}

#if !CUP_USES_VALUES
/* What marks are compared with. */
static inline cup_mark parts_of(struct cup_mean mean)
{
    static CUP_FLASH uint8_t parts[] = {0,
                                        CUP_MEAN_PARTS,
                                        CUP_MEAN_PARTS / 2,
                                        CUP_MEAN_PARTS / 3,
                                        CUP_MEAN_PARTS / 4,
                                        CUP_MEAN_PARTS / 5,
                                        CUP_MEAN_PARTS / CUP_MEAN_EXACT};
    return CUP_AS_MARK((int32_t)(mean.sum * parts[mean.count]));
}
#endif

static void make_good(struct cup_held *reading, uint8_t reason)
{
    reading->quality = CUP_QUALITY_GOOD;
    reading->reason = reason;
    reading->flags |= CUP_READING_KNOWN | CUP_READING_FRESH | CUP_READING_NEW;
}

#if CUP_USES_CHECKS
/* Full to where it cannot see: no distance that the window could hold. */
static void accept_full(const struct cup_sensor_use *use)
{
    CUP_FLASH struct cup_checks *checks = use->sensor->checks;
    use->state->reading.value = checks->brim;
    make_good(&use->state->reading, CUP_REASON_NEAR);
}
#else
static void accept_full(const struct cup_sensor_use *use)
{
    (void)use;
}
#endif

static void accept(const struct cup_sensor_use *use, uint16_t stored)
{
    CUP_FLASH struct cup_sensor *sensor = use->sensor;
    struct cup_sensor_state *state = use->state;
    struct cup_held *reading = &state->reading;
    state->latest = stored;
    cup_window_add(sensor->window, &state->window, use->cells, use->order,
                   stored);
    struct cup_mean mean =
        cup_window_mean(sensor->window, &state->window, use->cells);
    reading->value =
        CUP_IF_ELSE(VALUES, cup_value_of_mean(use, mean), parts_of(mean));
    make_good(reading, CUP_REASON_NONE);
}

void cup_sensor_hear(const struct cup_sensor_use *use, uint32_t now_ms,
                     struct cup_sample sample)
{
    CUP_FLASH struct cup_sensor *sensor = use->sensor;
    struct cup_sensor_state *state = use->state;
    bool lost = cup_is_over(now_ms, &state->good_ms, &sensor->lost_after_ms);
    uint32_t less = (uint32_t)sample.raw;
    CUP_WHERE(OFFSETS, less -= (uint32_t)sensor->offset;)
    uint16_t stored = (uint16_t)less;
    uint8_t reason = sample.reject;
    if (reason == CUP_REASON_NONE)
        reason = judge(sensor, sample.raw, less);
    else if (reason > CUP_REJECTS)
        reason = CUP_REASON_NO_ANSWER;
    if (CUP_IF(CHECKS, use->checks) && reason == CUP_REASON_NONE)
        reason = cup_checks_judge(use, now_ms, lost, &stored);
    if (reason != CUP_REASON_NONE &&
        !CUP_IF(CHECKS, reason == CUP_CHECKS_FULL)) {
        reject(use, reason);
        return;
    }
    if (lost)
        cup_sensor_stale(state);
    state->good_ms = now_ms;
    if (CUP_IF(CHECKS, reason == CUP_CHECKS_FULL))
        accept_full(use);
    else
        accept(use, stored);
    if (CUP_IF(CHECKS, use->checks))
        cup_checks_steady(use, now_ms);
}

uint32_t cup_sensor_age(CUP_FLASH struct cup_sensor *sensor,
                        struct cup_sensor_state *state, uint32_t now_ms)
{
    if (state->reading.quality == CUP_QUALITY_LOST)
        return UINT32_MAX;
    if (!cup_is_over(now_ms, &state->good_ms, &sensor->lost_after_ms))
        return cup_left(now_ms, state->good_ms, sensor->lost_after_ms);
    lose(state);
    return UINT32_MAX;
}
