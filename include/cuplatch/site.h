/* A whole site: ask, hear, decide.
 *
 * The plan is what the grower decided and is never written. The state is one
 * block of the caller's memory without pointers, so it can be copied, saved
 * and compared as bytes. The site does no I/O: each pass the caller asks
 * which sensors are due, hands in what it heard, and lets the site decide.
 *
 *     while (cup_site_ask(site, now, &want))
 *         if (want.kind == CUP_WANT_SAMPLE)
 *             cup_site_hear(site, want.index, now, my_sample(want.index));
 *     cup_site_decide(site, now, &sink);
 *
 * Things are numbered through: sensors, then tanks, pumps, duties and
 * sources, each in the order of the plan. */
#ifndef CUPLATCH_SITE_H
#define CUPLATCH_SITE_H

#include "duty.h"
#include "event.h"
#include "pump.h"
#include "sensor.h"
#include "tank.h"

/* A block of registers that several sensors take a value of.
 *   every_ms  how often it is asked
 *   first     the first register, and count of them
 *   sensor    the first sensor of the block; the others are its siblings
 *   unit      1 to 247, and the function that reads */
struct cup_source {
    uint32_t every_ms;
    uint16_t first;
    cup_index sensor;
    uint8_t count;
    uint8_t unit;
    uint8_t function;
};

struct cup_source_state {
    uint32_t asked_ms;
    uint32_t asked;
};

/*   layout        CUP_LAYOUT
 *   late_ms       a pass later than this after the last stops what runs
 *   boot_wait_ms  nothing starts before it
 *   at_once       pumps that may run together; 0 is no limit
 *   cells         16-bit cells that all windows need
 *   checks, proofs, days, streams, supplies, channels   how many of each there
 * are names         of every thing, by its number; null when not wanted */
struct cup_plan {
    uint32_t scan_ms;
    uint32_t late_ms;
    uint32_t boot_wait_ms;
    uint16_t layout;
    uint16_t cells;
    cup_index sensor_count;
    cup_index tank_count;
    cup_index pump_count;
    cup_index duty_count;
    cup_index source_count;
    cup_index checks;
    cup_index proofs;
    cup_index days;
    cup_index streams;
    cup_index supplies;
    cup_index channels;
    cup_index at_once;
    CUP_FLASH struct cup_sensor *sensors;
    CUP_FLASH struct cup_tank *tanks;
    CUP_FLASH struct cup_pump *pumps;
    CUP_FLASH struct cup_duty *duties;
    CUP_FLASH struct cup_source *sources;
    CUP_FLASH char *CUP_FLASH *names;
};

struct cup_tank_state {
    int32_t value;
    int32_t shown;
    uint16_t movers; /* pumps that move it now */
    uint16_t spare;
};

/* The pass itself: when it was, and how long nothing can change.
 *   seen_ms    the caller's time at the last pass
 *   clock_ms   our own time, which never goes back
 *   quiet_ms   from the last pass: nothing is timed to happen before
 *   asking_ms  our time of the last full look for due sensors
 *   unasked_ms from then: no sensor is due before
 *   quiet_ask_ms the same, while a look is under way
 *   warming_ms from then: no warm-up is over before */
struct cup_pass_state {
    uint32_t seen_ms;
    uint32_t clock_ms;
    uint32_t quiet_ms;
    uint32_t asking_ms;
    uint32_t unasked_ms;
    uint32_t quiet_ask_ms;
    uint32_t warming_ms;
    uint16_t cursor;
    uint16_t flags;
};
_Static_assert(sizeof(struct cup_pass_state) == 32, "state has no padding");

/* Where the plan's and the state's tables are. Made by cup_site_bind(), or
 * baked as a constant. */
struct cup_site {
    CUP_FLASH struct cup_plan *plan;
    struct cup_pass_state *pass;
    struct cup_sensor_state *sensors;
    struct cup_tank_state *tanks;
    struct cup_pump_state *pumps;
    struct cup_duty_state *duties;
    struct cup_source_state *sources;
    struct cup_checks_state *checks;
    struct cup_proof_state *proofs;
    struct cup_day_state *days;
    uint16_t *cells;
    struct cup_stream_state *streams;
    uint8_t *supplies; /* sensors that use each now */
    uint8_t *channels; /* 1 while a sensor has it */
};

/* Bytes of state that a plan needs. */
size_t cup_site_size(CUP_FLASH struct cup_plan *plan);

/* Lays the state out in `block`, which must be aligned for uint32_t, of
 * `size` bytes, and stays the caller's; it is zeroed. The next pass is a
 * boot. CUP_ERROR_LAYOUT, CUP_ERROR_SPACE. */
CUP_MUST_USE enum cup_error cup_site_bind(struct cup_site *site,
                                          CUP_FLASH struct cup_plan *plan,
                                          void *block, size_t size);

/* What the site wants done: a sensor sampled, a source requested, or a supply
 * line switched (`on`). `index` is that of the sensor, source or supply. */
enum cup_want_kind { CUP_WANT_SAMPLE, CUP_WANT_REQUEST, CUP_WANT_SUPPLY };

struct cup_want {
    cup_index index;
    uint8_t kind;
    bool on;
};

/* Finds what is due. Call until it returns false; then not before
 * cup_site_wait() ms from now. May be called between passes, so that a supply
 * goes off as soon as its sensor was read. Answers may come later. */
bool cup_site_ask(const struct cup_site *site, uint32_t now_ms,
                  struct cup_want *want);

/* How many ms from now_ms until a warm-up is over; UINT32_MAX when no sensor
 * is warming up. */
uint32_t cup_site_warming(const struct cup_site *site, uint32_t now_ms);

/* Takes one sample of a sensor, asked for or not. */
void cup_site_hear(const struct cup_site *site, cup_index sensor,
                   uint32_t now_ms, struct cup_sample sample);

/* Takes bytes of a sensor: a whole frame, or what has come of a stream. */
void cup_site_hear_bytes(const struct cup_site *site, cup_index sensor,
                         uint32_t now_ms, const uint8_t *bytes, size_t count);

/* Takes a source's answer, as it came; its sensors each get their value.
 * `count` 0: it did not answer. */
void cup_site_answer(const struct cup_site *site, cup_index source,
                     uint32_t now_ms, const uint8_t *bytes, size_t count);

/* One pass: looks at everything heard and at the time, and decides. */
void cup_site_decide(const struct cup_site *site, uint32_t now_ms,
                     const struct cup_sink *sink);

/* How many ms from the last pass until a sensor is due or anything timed
 * happens, so how long the caller may sleep. */
uint32_t cup_site_wait(const struct cup_site *site);

/* Everything off, for good: the program ends. */
void cup_site_shut_down(const struct cup_site *site,
                        const struct cup_sink *sink);

/* Whether a pump's output is to be on. */
bool cup_site_runs(const struct cup_site *site, cup_index pump);

/* The reading of a sensor or a tank, by its number as a thing. Any other
 * number gives a lost reading. */
struct cup_reading cup_site_reading(const struct cup_site *site,
                                    cup_index thing);

/* The value of a sensor or a tank as it is shown and as it starts things:
 * the reading's own, or the steady one where that was asked for. */
int32_t cup_site_shown(const struct cup_site *site, cup_index thing);

/* The latest accepted sample of a sensor, without smoothing, in its unit. */
int32_t cup_site_latest(const struct cup_site *site, cup_index sensor);

/* Age of the last good sample behind a sensor or a tank, in ms. */
uint32_t cup_site_age_ms(const struct cup_site *site, cup_index thing);

/* Why a pump is as it is. */
struct cup_cause cup_site_why(const struct cup_site *site, cup_index pump);

/* Numbers of things. */
static inline cup_index cup_tank_thing(CUP_FLASH struct cup_plan *plan,
                                       cup_index tank)
{
    return (cup_index)(plan->sensor_count + tank);
}

static inline cup_index cup_pump_thing(CUP_FLASH struct cup_plan *plan,
                                       cup_index pump)
{
    return (cup_index)(plan->sensor_count + plan->tank_count + pump);
}

static inline cup_index cup_things(CUP_FLASH struct cup_plan *plan)
{
    return (cup_index)(plan->sensor_count + plan->tank_count +
                       plan->pump_count + plan->duty_count +
                       plan->source_count);
}

static inline cup_index cup_source_thing(CUP_FLASH struct cup_plan *plan,
                                         cup_index source)
{
    return (cup_index)(plan->sensor_count + plan->tank_count +
                       plan->pump_count + plan->duty_count + source);
}

/* The sensor behind a sensor or a tank. */
static inline cup_index cup_thing_sensor(CUP_FLASH struct cup_plan *plan,
                                         cup_index thing)
{
    return thing < plan->sensor_count
               ? thing
               : plan->tanks[thing - plan->sensor_count].sensor;
}

/* The unit of a sensor's or a tank's value. */
uint8_t cup_thing_unit(CUP_FLASH struct cup_plan *plan, cup_index thing);

/* Steering: what a person says while the site runs. */
#define CUP_VERBS(X)                                                           \
    X(AUTO, "auto")                                                            \
    X(OFF, "off")                                                              \
    X(HAND, "hand")                                                            \
    X(CLEAR, "clear")                                                          \
    X(HOLD, "hold")                                                            \
    X(GO, "go")

enum cup_verb {
#define X(name, code) CUP_VERB_##name,
    CUP_VERBS(X)
#undef X
        CUP_VERB_COUNT
};

/* `pump` is a pump's index; HOLD and GO are for the whole site and leave it.
 * hand_for_ms is for HAND only. */
struct cup_word {
    uint32_t hand_for_ms;
    cup_index pump;
    uint8_t verb;
};

/* Whether a word would be taken. CUP_ERROR_NAME: no such pump or verb.
 * CUP_ERROR_RANGE: a hand run of 0 ms or longer than its limit. */
CUP_MUST_USE enum cup_error cup_site_may(const struct cup_site *site,
                                         const struct cup_word *word);

/* Takes a word in for the next pass, or returns why not and changes
 * nothing. */
CUP_MUST_USE enum cup_error cup_site_steer(const struct cup_site *site,
                                           uint32_t now_ms,
                                           const struct cup_word *word);

#endif
