/* A sensor turns raw samples into a reading: a value in a real unit with a
 * quality and an age.
 *
 * A sample is checked, smoothed, converted. One that fails a check is counted
 * under its reason and never averaged in. The reading is `good` while the
 * last sample asked for was accepted, `held` (the last good value) when it was
 * not, and `lost` once nothing good came for `lost_after_ms`. */
#ifndef CUPLATCH_SENSOR_H
#define CUPLATCH_SENSOR_H

#include "curve.h"
#include "reason.h"
#include "window.h"

#define CUP_QUALITIES(X)                                                       \
    X(GOOD, "good")                                                            \
    X(HELD, "held")                                                            \
    X(LOST, "lost")

enum cup_quality {
#define X(name, code) CUP_QUALITY_##name,
    CUP_QUALITIES(X)
#undef X
        CUP_QUALITY_COUNT
};

/* One raw sample, or why there is none. `reject` is CUP_REASON_NONE, or one
 * of the rejects, such as CUP_REASON_NO_ANSWER; then `raw` means nothing. */
struct cup_sample {
    int32_t raw;
    uint8_t reject;
};

/* What the grower decided about a sensor.
 *   curve           raw less `offset` to the unit's steps
 *   every_ms        how often it is asked, 1 to CUP_TIME_MAX_MS
 *   lost_after_ms   how long a last good value is held
 *   offset          the raw value that is stored as 0
 *   lowest, highest plausible raw less offset, inclusive
 *   cells           where its window starts in the site's cells
 *   silent          the raw value that means "no answer", or INT32_MIN */
struct cup_sensor {
    CUP_FLASH struct cup_curve *curve;
    uint32_t every_ms;
    uint32_t lost_after_ms;
    int32_t offset;
    int32_t silent;
    uint16_t lowest;
    uint16_t highest;
    uint16_t cells;
    struct cup_window window;
    uint8_t unit;
};

/* What everything downstream sees; small enough for a register.
 *   flags  CUP_READING_..., and what the site notes for itself */
struct cup_reading {
    int32_t value;
    uint8_t unit;
    uint8_t quality;
    uint8_t reason;
    uint8_t flags;
};

enum {
    CUP_READING_KNOWN = 1, /* there is a value */
    CUP_READING_FRESH = 2, /* accepted since a loss or a late pass */
    CUP_READING_NEW = 4,   /* accepted since the last pass */
    CUP_READING_ASKED = 8, /* its sensor was asked before */
    CUP_READING_LOST = 16  /* lost, and that was told */
};

/* What is known about it. All zero, then cup_sensor_boot(). `latest` is the
 * last accepted sample, `asked_ms` the site's. */
struct cup_sensor_state {
    struct cup_reading reading;
    uint32_t good_ms;
    uint32_t asked_ms;
    uint16_t latest;
    struct cup_window_state window;
    uint16_t rejected[CUP_REJECTS];
};
_Static_assert(sizeof(struct cup_sensor_state) == 20 + 2 * CUP_REJECTS,
               "state has no padding");

/* Before the first sample: held without a value, lost after lost_after_ms. */
void cup_sensor_boot(CUP_FLASH struct cup_sensor *sensor,
                     struct cup_sensor_state *state, uint32_t now_ms);

/* Takes one sample. `cells` is the window's, CUP_WINDOW_CELLS long. */
void cup_sensor_hear(CUP_FLASH struct cup_sensor *sensor,
                     struct cup_sensor_state *state, uint16_t *cells,
                     uint32_t now_ms, struct cup_sample sample);

/* Loses the reading when its time is over. Returns how many ms are left until
 * it would be lost; UINT32_MAX when it is lost already. */
uint32_t cup_sensor_age(CUP_FLASH struct cup_sensor *sensor,
                        struct cup_sensor_state *state, uint32_t now_ms);

/* Empties the window: what is in it is too old to smooth with. */
void cup_sensor_stale(struct cup_sensor_state *state);

/* A reading that a decision may rest on: a value, good or held. A lost one
 * has none. */
static inline bool cup_usable(struct cup_reading reading)
{
    return reading.flags & CUP_READING_KNOWN;
}

static inline bool cup_fresh(struct cup_reading reading)
{
    return reading.flags & CUP_READING_FRESH;
}

/* The cause for a reading that can't be used: reason `lost`, or `unknown` when
 * nothing was heard yet. The age of what is lost is left to the caller. */
struct cup_cause cup_unusable(cup_index about, struct cup_reading reading,
                              uint8_t lost, uint8_t unknown);

#endif
