/* A sensor turns raw samples into a reading: a value in a real unit with a
 * quality and an age.
 *
 * A sample is checked, smoothed, converted. One that fails a check is counted
 * under its reason and never averaged in. The reading is `good` while the
 * last sample asked for was accepted, `held` (the last good value) when it was
 * not, and `lost` once nothing good came for `lost_after_ms`.
 *
 * In use:
 *
 *     struct cup_sensor_state state = {.good_ms = 0};
 *     struct cup_sensor_use use = {
 *         .sensor = &probe, .state = &state, .cells = cells, .order = order};
 *     cup_sensor_boot(&probe, &state, now_ms);
 *     cup_sensor_hear(&use, now_ms, (struct cup_sample){.raw = raw});
 *     if (cup_usable(state.reading))
 *         level = state.reading.value; */
#ifndef CUPLATCH_SENSOR_H
#define CUPLATCH_SENSOR_H

#include "decode.h"
#include "several.h"
#include "window.h"

CUP_C_BEGINS

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

/* How a sample of a sensor arrives: a row each. Name and code; as a NUMBER, as
 * a FRAME or a STREAM of bytes, or in a BLOCK of registers; the unit it has by
 * itself; what else it needs to be a value: MARKS (dry and wet, or points), a
 * word on what it MEASURES, or NOTHING; whether its raw values may be below 0;
 * so many raw steps are so many steps of the unit; and the sample of a frame of
 * `count` `bytes`, `fresh` when nothing is known yet, or the decoder of a
 * stream. A new form is a row, its decoder and a test. */
#define CUP_FORMS(X)                                                           \
    X(COUNTS, "counts", NUMBER, NONE, MARKS, false, 0, 0, )                    \
    X(VOLTS, "volts", NUMBER, VOLT, NOTHING, false, 10000, 10000, )            \
    X(LOOP, "loop", NUMBER, AMPERE, NOTHING, false, 10000, 10000, )            \
    X(ECHO, "echo", NUMBER, MM, NOTHING, false, 10000, 17171, )                \
    X(RANGE_BYTES, "range-bytes", STREAM, MM, NOTHING, false, 1000, 10000,     \
      cup_range_bytes)                                                         \
    X(RANGE_TEXT, "range-text", STREAM, MM, NOTHING, false, 1000, 10000,       \
      cup_range_text)                                                          \
    X(RANGE_WORD, "range-word", FRAME, MM, NOTHING, false, 1000, 10000,        \
      cup_range_word(bytes, count))                                            \
    X(WORD12, "word12", FRAME, NONE, MARKS, false, 0, 0,                       \
      cup_word12(bytes, count))                                                \
    X(TEMP9, "temp9", FRAME, CELSIUS, NOTHING, true, 160, 1000,                \
      cup_temp9(bytes, count, fresh))                                          \
    X(PULSE40, "pulse40", FRAME, NONE, MEASURES, false, 0, 0,                  \
      cup_pulse40(bytes, count, (enum cup_pulse40_part)sensor->part,           \
                  (enum cup_pulse40_scale)sensor->scale))                      \
    X(MODBUS, "modbus", BLOCK, NONE, MEASURES, false, 0, 0, )                  \
    X(SWITCH, "switch", NUMBER, CONTACT, NOTHING, false, 1, 1, )               \
    X(PULSES, "pulses", NUMBER, FLOW, NOTHING, false, 1, 0, )                  \
    X(PLAIN, "plain", NUMBER, NONE, MEASURES, false, 0, 0, )

enum cup_form {
#define X(name, ...) CUP_FORM_##name,
    CUP_FORMS(X)
#undef X
        CUP_FORM_COUNT
};

/* Whether samples of a form are frames or a stream of bytes, not numbers. */
#define CUP_ARRIVES_NUMBER 0
#define CUP_ARRIVES_BLOCK 0
#define CUP_ARRIVES_FRAME 1
#define CUP_ARRIVES_STREAM 1
#define CUP_FORM_OF_BYTES(name, code, arrives, ...)                            \
    | (uint32_t)CUP_ARRIVES_##arrives << CUP_FORM_##name
static inline bool cup_form_is_bytes(uint8_t form)
{
    return (0u CUP_FORMS(CUP_FORM_OF_BYTES)) >> form & 1u;
}

/* Checks that only some sensors have. A limit of 0 is no check.
 *   near         values below it are too near to measure (blanking): rejected
 *                as no value, but for what follows
 *   brim         two samples in a row that are too near are its tank at the
 *                brim, and this value; whether that is believed its span knows.
 *                0: never
 *   jump_per_s   how much the value can move in a second
 *   stuck_ms     raw the same for this long is stuck
 *   debounce_ms  a switch has changed once it stayed changed this long
 *   band, steady_ms  what is shown moves once the value stayed within the
 *                    band for this long */
struct cup_checks {
    cup_value near;
    cup_value brim;
    uint32_t jump_per_s;
    uint32_t stuck_ms;
    uint32_t debounce_ms;
    cup_value band;
    uint32_t steady_ms;
};

/* What these checks remember. All zero is the beginning. */
struct cup_checks_state {
    cup_value last; /* value of the last accepted sample, or candidate */
    cup_value shown;
    cup_value centre;
    uint32_t last_ms; /* when that was */
    uint32_t same_ms; /* since when raw has not changed */
    uint32_t band_ms; /* since when the value is within the band */
    uint16_t raw;
    uint16_t flags;
};
CUP_ASSERT(CUP_NARROW || sizeof(struct cup_checks_state) == 28,
           "state has no padding");

/* What the grower decided about a sensor.
 *   curve           raw less `offset` to the unit's steps; not looked at for
 *                   an echo with a thermometer
 *   checks          null when it has none
 *   every_ms        how often it is asked, 1 to CUP_TIME_MAX_MS
 *   lost_after_ms   how long a last good value is held
 *   warm_up_ms      from switching its supply on to a good sample
 *   offset          the raw value that is stored as 0
 *   lowest, highest plausible raw less offset, inclusive
 *   nothing         raw values that are no answer, nothing_count of them; null
 *                   when there are none
 *   several         the others that it is made of; null: it is asked itself
 *   cells           where its window starts in the site's cells
 *   part            of a frame with two values: which; and see scale
 *   scale           how the numbers of a pulse40 frame are scaled
 *   word            of a block: which register
 *   checks_own, stream_own  numbers of its state for checks, for a stream
 *   supply, channel what it shares with others; CUP_NONE when nothing
 *   air             the thermometer that corrects an echo; CUP_NONE: 20 C
 *   lean            such an echo is nearer by so many 65536ths: its beam is not
 *                   straight down
 *   source          the block it takes a value of; CUP_NONE: asked itself
 *   sibling         the next sensor of that block; CUP_NONE: the last
 *   part_of         the sensor that is made of it and others; CUP_NONE: none */
struct cup_sensor {
    CUP_FLASH struct cup_curve *curve;
    CUP_WHERE(CHECKS, CUP_FLASH struct cup_checks *checks;)
    CUP_WHERE(NOTHINGS, CUP_FLASH int32_t *nothing;)
    CUP_WHERE(SEVERAL, CUP_FLASH struct cup_several *several;)
    uint32_t every_ms;
    uint32_t lost_after_ms;
    CUP_WHERE(SUPPLIES, uint32_t warm_up_ms;)
    CUP_WHERE(OFFSETS, int32_t offset;)
    uint16_t lowest;
    uint16_t highest;
    uint16_t cells;
    CUP_WHERE(CHECKS, cup_index checks_own;)
    CUP_WHERE(FRAMES, cup_index stream_own;)
    CUP_WHERE(SUPPLIES, cup_index supply;)
    CUP_WHERE(SUPPLIES, cup_index channel;)
    CUP_WHERE(AIR, cup_index air;)
    CUP_WHERE(AIR, uint16_t lean;)
    CUP_WHERE(SOURCES, cup_index source;)
    CUP_WHERE(SOURCES, cup_index sibling;)
    CUP_WHERE(SEVERAL, cup_index part_of;)
    struct cup_window window;
    uint8_t form;
    uint8_t unit;
    CUP_WHERE(FRAMES, uint8_t part;)
    CUP_WHERE(FRAMES, uint8_t scale;)
    CUP_WHERE(SOURCES, uint8_t word;)
    CUP_WHERE(NOTHINGS, uint8_t nothing_count;)
};

/* What everything downstream sees; small enough for a register. What a sensor
 * holds itself is the same, but where CUP_USES_VALUES is 0 its value is a mean
 * of its counts.
 *   value  in its unit
 *   flags  CUP_READING_..., and what the site notes for itself */
#define CUP_READING_FIELDS(type)                                               \
    type value;                                                                \
    uint8_t unit;                                                              \
    uint8_t quality;                                                           \
    uint8_t reason;                                                            \
    uint8_t flags;
struct cup_reading {
    CUP_READING_FIELDS(cup_value)
};
#if CUP_USES_VALUES
#define cup_held cup_reading
#else
struct cup_held {
    CUP_READING_FIELDS(cup_mark)
};
#endif

/* For a plan written by hand: a sensor that shares nothing. */
#define CUP_SENSOR_ALONE                                                       \
    .checks_own = CUP_NONE, .stream_own = CUP_NONE, .supply = CUP_NONE,        \
    .channel = CUP_NONE, .air = CUP_NONE, .source = CUP_NONE,                  \
    .sibling = CUP_NONE, .part_of = CUP_NONE

enum {
    CUP_READING_KNOWN = 1, /* there is a value */
    CUP_READING_FRESH = 2, /* accepted since a loss or a late pass */
    CUP_READING_NEW = 4,   /* accepted since the last pass */
    CUP_READING_ASKED = 8, /* its sensor was asked before */
    CUP_READING_LOST = 16, /* lost, and that was told */
    CUP_READING_WARM = 32, /* its supply is on, it is warming up */
    CUP_READING_SPENT = 64 /* sampled, its supply may go off */
};

/* What is known about it. All zero, then cup_sensor_boot(). `latest` is the
 * last accepted sample, `asked_ms` the site's. */
struct cup_sensor_state {
    struct cup_held reading;
    uint32_t good_ms;
    CUP_WHERE(PACES, uint32_t asked_ms;)
    uint16_t latest;
    struct cup_window_state window;
};
CUP_ASSERT(CUP_NARROW ||
               sizeof(struct cup_sensor_state) == (CUP_USES_PACES ? 20 : 16),
           "state has no padding");

/* How many of its samples were rejected, by the reason less one; saturates.
 * For people: nothing is decided by it. Where CUP_USES_TALLIES. */
struct cup_tally_state {
    uint16_t rejected[CUP_REJECTS];
};

/* Before the first sample: held without a value, lost after lost_after_ms. */
void cup_sensor_boot(CUP_FLASH struct cup_sensor *sensor,
                     struct cup_sensor_state *state, uint32_t now_ms);

/* A sensor with all that belongs to it. `cells` and `order`
 * are its window's; `checks` is null when the plan has none for it, and
 * `tally` when nobody counts. `air_cdeg` is the temperature of the air, for an
 * echo. */
struct cup_sensor_use {
    CUP_FLASH struct cup_sensor *sensor;
    struct cup_sensor_state *state;
    CUP_WHERE(CHECKS, struct cup_checks_state *checks;)
    CUP_WHERE(TALLIES, struct cup_tally_state *tally;)
    uint16_t *cells;
    uint8_t *order;
    CUP_WHERE(AIR, int32_t air_cdeg;)
};

/* Takes one sample. */
void cup_sensor_hear(const struct cup_sensor_use *use, uint32_t now_ms,
                     struct cup_sample sample);

/* Takes a whole frame of bytes, or part of a stream (for a form that is one;
 * `stream` is the sensor's, else null). Every damaged frame is counted; the
 * last good one is the sample. */
void cup_sensor_hear_bytes(const struct cup_sensor_use *use,
                           struct cup_stream_state *stream, uint32_t now_ms,
                           const uint8_t *bytes, size_t count);

/* Its value, of a reading that has one. */
cup_value cup_sensor_value(CUP_FLASH struct cup_sensor *sensor,
                           const struct cup_sensor_state *state);

/* The value of one stored raw value, without smoothing. */
cup_value cup_sensor_convert(const struct cup_sensor_use *use, uint16_t stored);

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

/* Nearer than it can measure, again and again: its tank is full. */
static inline bool cup_is_full(struct cup_reading reading)
{
    return reading.reason == CUP_REASON_NEAR &&
           reading.quality == CUP_QUALITY_GOOD;
}

static inline bool cup_fresh(struct cup_reading reading)
{
    return reading.flags & CUP_READING_FRESH;
}

CUP_C_ENDS

#endif
