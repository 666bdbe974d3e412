/* A whole site: ask, hear, decide.
 *
 * The plan is what the grower decided and is never written. The state is one
 * block of the caller's memory without pointers, so it can be copied, saved
 * and compared as bytes. The site does no I/O: each pass the caller asks
 * which sensors are due, hands in what it heard, and lets the site decide.
 *
 *     while (cup_site_ask(site, now, &sensor))
 *         cup_site_hear(site, sensor, now, my_sample(sensor));
 *     cup_site_decide(site, now, &sink);
 *
 * Things are numbered through: sensors, then tanks, pumps and duties, each in
 * the order of the plan. */
#ifndef CUPLATCH_SITE_H
#define CUPLATCH_SITE_H

#include "duty.h"
#include "event.h"
#include "pump.h"
#include "sensor.h"
#include "tank.h"

/*   layout        CUP_LAYOUT
 *   late_ms       a pass later than this after the last stops what runs
 *   boot_wait_ms  nothing starts before it
 *   at_once       pumps that may run together; 0 is no limit
 *   cells         16-bit cells that all windows need
 *   names         of every thing, by its number; null when not wanted */
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
    cup_index at_once;
    CUP_FLASH struct cup_sensor *sensors;
    CUP_FLASH struct cup_tank *tanks;
    CUP_FLASH struct cup_pump *pumps;
    CUP_FLASH struct cup_duty *duties;
    CUP_FLASH char *CUP_FLASH *names;
};

struct cup_tank_state {
    int32_t value;
};

/* The pass itself: when it was, and how long nothing can change.
 *   seen_ms    the caller's time at the last pass
 *   clock_ms   our own time, which never goes back
 *   quiet_ms   from the last pass: nothing is timed to happen before
 *   asking_ms  our time of the last full look for due sensors
 *   unasked_ms from then: no sensor is due before
 *   quiet_ask_ms the same, while a look is under way */
struct cup_pass_state {
    uint32_t seen_ms;
    uint32_t clock_ms;
    uint32_t quiet_ms;
    uint32_t asking_ms;
    uint32_t unasked_ms;
    uint32_t quiet_ask_ms;
    uint16_t cursor;
    uint16_t flags;
};
_Static_assert(sizeof(struct cup_pass_state) == 28, "state has no padding");

/* Where the plan's and the state's tables are. Made by cup_site_bind(), or
 * baked as a constant. */
struct cup_site {
    CUP_FLASH struct cup_plan *plan;
    struct cup_pass_state *pass;
    struct cup_sensor_state *sensors;
    struct cup_tank_state *tanks;
    struct cup_pump_state *pumps;
    struct cup_duty_state *duties;
    uint16_t *cells;
};

/* Bytes of state that a plan needs. */
size_t cup_site_size(CUP_FLASH struct cup_plan *plan);

/* Lays the state out in `block`, which must be aligned for uint32_t, of
 * `size` bytes, and stays the caller's; it is zeroed. The next pass is a
 * boot. CUP_ERROR_LAYOUT, CUP_ERROR_SPACE. */
CUP_MUST_USE enum cup_error cup_site_bind(struct cup_site *site,
                                          CUP_FLASH struct cup_plan *plan,
                                          void *block, size_t size);

/* Finds a sensor that is due. Call until it returns false; then not before
 * cup_site_wait() ms from now. */
bool cup_site_ask(const struct cup_site *site, uint32_t now_ms,
                  cup_index *sensor);

/* Takes one sample of a sensor, asked for or not. */
void cup_site_hear(const struct cup_site *site, cup_index sensor,
                   uint32_t now_ms, struct cup_sample sample);

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
                       plan->pump_count + plan->duty_count);
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
