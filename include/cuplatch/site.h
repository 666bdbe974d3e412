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
 * Things are numbered through: sensors, then tanks, pumps, duties, sources,
 * days and alerts, each in the order of the plan.
 *
 * One file: the state is one block, which is seen whole here. */
#ifndef CUPLATCH_SITE_H
#define CUPLATCH_SITE_H

#include "alert.h"
#include "button.h"
#include "choice.h"
#include "day.h"
#include "duty.h"
#include "event.h"
#include "lamp.h"
#include "once.h"
#include "pump.h"
#include "sensor.h"
#include "tank.h"
#include "watch.h"

CUP_C_BEGINS

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

/* A number of a duty that may be changed while running, within low to high. */
#define CUP_FIELDS(X)                                                          \
    X(START, "start")                                                          \
    X(STOP, "stop")                                                            \
    X(DOSE, "dose")                                                            \
    X(SOAK, "soak")                                                            \
    X(RUN, "for")                                                              \
    X(EVERY, "every")

enum cup_field {
#define X(name, code) CUP_FIELD_##name,
    CUP_FIELDS(X)
#undef X
        CUP_FIELD_COUNT
};

struct cup_setting {
    int32_t low;
    int32_t high;
    cup_index duty;
    uint8_t field;
};

/*   layout        CUP_LAYOUT
 *   late_ms       a pass later than this after the last stops what runs
 *   boot_wait_ms  nothing starts before it
 *   at_once       pumps that may run together; 0 is no limit
 *   cells         samples that all windows hold
 *   checks to channels   how many states of each there are
 *   routes        how many duties go through valves
 *   panel_width   letters of a line of the panel; 0: there is none
 *   us            whether people are shown US units; what is kept is metric
 *   lapse_ms      a change at the panel that nobody keeps is forgotten
 *   light_ms      its back-light goes out after this
 *   groups        pumps of each group that may run together
 *   names         of every thing, by its number; null when not wanted
 *   repeat_ms     what comes and goes, a sensor that is lost, a probe that
 *                 strays, is told again after so long at the soonest; 0: always
 *   patience_ms   what asks and is kept off for so long is told of; 0: never
 *   keys          of every thing, for the journal: a hash of its name; null
 *                 when there is no journal
 *   fingerprint   of everything in the plan, for the journal */
struct cup_plan {
    uint32_t scan_ms;
    uint32_t late_ms;
    uint32_t boot_wait_ms;
    CUP_WHERE(ONCE, uint32_t repeat_ms;)
    CUP_WHERE(CHOICES, uint32_t patience_ms;)
    uint16_t layout;
    uint16_t cells;
    cup_index sensor_count;
    cup_index tank_count;
    cup_index pump_count;
    cup_index duty_count;
    cup_index source_count;
    cup_index day_count;
    cup_index alert_count;
    cup_index watch_count;
    cup_index setting_count;
    cup_index group_count;
    cup_index routes;
    cup_index bar_count;
    cup_index signal_count;
    CUP_WHERE(BUTTONS, cup_index button_count;)
    uint8_t panel_width;
    CUP_WHERE(US, uint8_t us;)
    uint32_t lapse_ms;
    uint32_t light_ms;
    cup_index checks;
    CUP_WHERE(SPANS, cup_index spans;)
    cup_index proofs;
    cup_index per_days;
    cup_index doses;
    cup_index alsos;
    cup_index turns;
    cup_index travels;
    cup_index streams;
    CUP_WHERE(SEVERAL, cup_index severals;)
    cup_index supplies;
    cup_index channels;
    cup_index at_once;
    CUP_FLASH struct cup_sensor *sensors;
    CUP_FLASH struct cup_tank *tanks;
    CUP_FLASH struct cup_pump *pumps;
    CUP_FLASH struct cup_duty *duties;
    CUP_FLASH struct cup_source *sources;
    CUP_FLASH struct cup_day *days;
    CUP_FLASH struct cup_alert *alerts;
    CUP_FLASH struct cup_watch *watches;
    CUP_FLASH struct cup_setting *settings;
    CUP_FLASH struct cup_bar *bars;
    CUP_FLASH struct cup_signal *signals;
    CUP_WHERE(BUTTONS, CUP_FLASH struct cup_button *buttons;)
    CUP_FLASH cup_index *groups;
    CUP_FLASH char *CUP_FLASH *names;
    CUP_FLASH uint32_t *keys;
    uint32_t fingerprint;
};

/* A few pumps, counted. */
#ifdef __AVR__
typedef uint8_t cup_few;
#else
typedef uint16_t cup_few;
#endif

struct cup_tank_state {
    CUP_WHERE(VALUES, cup_value value;)
    CUP_WHERE(VALUES, cup_value shown;)
    cup_few movers;                    /* pumps that move it now */
    CUP_WHERE(FAILS, cup_few failing;) /* ... that the port cannot drive */
    CUP_WHERE(PROOFS, cup_few givers;) /* movers that fill it */
    CUP_WHERE(PROOFS, CUP_WHERE(FAILS, cup_few spare;))
};

/* Whether the journal can be written, and whether that was told. */
enum {
    CUP_JOURNAL_WORKS,
    CUP_JOURNAL_FAILS,
    CUP_JOURNAL_FAILS_TOLD,
    CUP_JOURNAL_BACK
};

/* The pass itself: when it was, and what came of it.
 *   seen_ms    the caller's time at the last pass
 *   clock_ms   our own time, which never goes back
 *   cursor     the next to be asked, while a look for due sensors is under way
 *   altered    settings that are not as the plan has them
 *   mood       an enum cup_mood, as it was when all was last looked at, and
 *              whether horns are quiet: CUP_MOOD_QUIET...
 *   journal    whether it can be written: CUP_JOURNAL_...
 *   asked_ms   when all sensors were asked; where CUP_USES_PACES is 0
 *   standing   choices of people that stand, or are to be told
 *   unkept     1: they changed since their record was written */
struct cup_pass_state {
    uint32_t seen_ms;
    uint32_t clock_ms;
    CUP_UNLESS(PACES, uint32_t asked_ms;)
    uint16_t cursor;
    uint16_t flags;
    uint16_t altered;
    uint8_t mood;
    uint8_t journal;
    CUP_WHERE(CHOICES, uint16_t standing;)
    CUP_WHERE(CHOICES, uint16_t unkept;)
};
CUP_ASSERT(sizeof(struct cup_pass_state) ==
               (CUP_USES_PACES ? 16 : 20) + 4 * CUP_USES_CHOICES,
           "state has no padding");

/* How long nothing can change; where CUP_USES_QUIET.
 *   pass_ms    from the last pass: nothing is timed to happen before
 *   alive_ms   from then: no reading is lost before
 *   asking_ms  our time of the last full look for due sensors
 *   unasked_ms from then: no sensor is due before
 *   looked_ms  the same, while a look is under way
 *   warming_ms from then: no warm-up is over before */
struct cup_quiet_state {
    uint32_t pass_ms;
    uint32_t alive_ms;
    uint32_t asking_ms;
    uint32_t unasked_ms;
    uint32_t looked_ms;
    uint32_t warming_ms;
};

/* The clock on the wall, in s since the year 1970 began, and our time when it
 * said so; 0: it was not set. `kept_s` is what it would say at `kept_ms` if no
 * time had gone without power, as the journal kept it; 0: that is not known, or
 * was counted already. Where CUP_USES_CLOCK. */
struct cup_wall_state {
    uint32_t s;
    uint32_t at_ms;
    uint32_t kept_s;
    uint32_t kept_ms;
};

/* Of each sensor whether it is lost, then of each whether it strays from
 * others, of each alert whether it stands. */
#define CUP_ONCES_ALERTS(plan)                                                 \
    ((plan)->sensor_count * (1 + CUP_IF(SEVERAL, (plan)->severals > 0)))
#define CUP_ONCES(plan)                                                        \
    (CUP_IF(ONCE, (plan)->repeat_ms > 0)                                       \
         ? CUP_ONCES_ALERTS(plan) + CUP_IF(ALERTS, (plan)->alert_count)        \
         : 0)

/* The tables of a site's state, in the order in which they lie, the widest
 * first so that each is aligned: the type of a row, the table's name, how many
 * rows a `plan` has, the block without which it is of no use (EVER: always),
 * and how many values in a row are of 16 bits on a part that counts with these.
 * Of some the name does not say all:
 *   settings  as they are now; changes: 1 where that was not told
 *   cells     of all windows; order: when each sample came
 *   slack     of sensors and tanks: how far each may still move before anything
 *             could be decided otherwise
 *   supplies  sensors that use each now; channels: 1 while a sensor has it
 *   groups    pumps of each that run now
 *   choices   of each pump, of each duty, and of the site last
 *   blames    of each pump: the duty that tripped last, and one; 0: none */
#define CUP_TABLES(X)                                                          \
    X(struct cup_pass_state, pass, 1, EVER, 0)                                 \
    X(struct cup_quiet_state, quiet, 1, QUIET, 0)                              \
    X(struct cup_wall_state, wall, 1, CLOCK, 0)                                \
    X(struct cup_sensor_state, sensors, plan->sensor_count, EVER, 1)           \
    X(struct cup_tally_state, tallies, plan->sensor_count, TALLIES, 0)         \
    X(struct cup_once_state, onces, CUP_ONCES(plan), ONCE, 0)                  \
    X(struct cup_tank_state, tanks, plan->tank_count, EVER, 2)                 \
    X(struct cup_pump_state, pumps, plan->pump_count, EVER, 0)                 \
    X(struct cup_duty_state, duties, plan->duty_count, EVER, 0)                \
    X(struct cup_choice_state, choices,                                        \
      CUP_IF(CHOICES, plan->pump_count + plan->duty_count + 1), CHOICES, 0)    \
    X(struct cup_tries_state, tries, CUP_IF(TRIES, plan->duty_count), TRIES,   \
      0)                                                                       \
    X(struct cup_source_state, sources, plan->source_count, EVER, 0)           \
    X(struct cup_checks_state, checks, plan->checks, EVER, 3)                  \
    X(struct cup_span_state, spans, CUP_IF(SPANS, plan->spans), SPANS, 0)      \
    X(struct cup_proof_state, proofs, plan->proofs, EVER, 1)                   \
    X(struct cup_per_day_state, per_days, plan->per_days, EVER, 0)             \
    X(struct cup_dose_state, doses, plan->doses, EVER, 0)                      \
    X(struct cup_latch_state, alsos, plan->alsos, EVER, 0)                     \
    X(struct cup_turn_state, turns, plan->turns, EVER, 0)                      \
    X(struct cup_travel_state, travels, plan->travels, EVER, 0)                \
    X(struct cup_latch_state, days, plan->day_count, EVER, 0)                  \
    X(struct cup_alert_state, alerts, plan->alert_count, EVER, 0)              \
    X(struct cup_watch_state, watches, plan->watch_count, EVER, 0)             \
    X(struct cup_button_state, buttons, CUP_IF(BUTTONS, plan->button_count),   \
      BUTTONS, 0)                                                              \
    X(int32_t, settings, plan->setting_count, EVER, 0)                         \
    X(uint16_t, cells, plan->cells, EVER, 0)                                   \
    X(uint16_t, blames, CUP_IF(TRIES, plan->pump_count), TRIES, 0)             \
    X(uint16_t, slack, plan->sensor_count + plan->tank_count, SLACK, 0)        \
    X(struct cup_stream_state, streams, plan->streams, EVER, 0)                \
    X(struct cup_several_state, severals, CUP_IF(SEVERAL, plan->severals),     \
      SEVERAL, 0)                                                              \
    X(uint8_t, supplies, plan->supplies, EVER, 0)                              \
    X(uint8_t, channels, plan->channels, EVER, 0)                              \
    X(uint8_t, groups, plan->group_count, EVER, 0)                             \
    X(uint8_t, changes, plan->setting_count, EVER, 0)                          \
    X(uint8_t, order, plan->cells, EVER, 0)

/* Where the plan's and the state's tables are. Made by cup_site_bind(), or
 * baked as a constant. */
struct cup_site {
    CUP_FLASH struct cup_plan *plan;
#define X(type, name, ...) type *name;
    CUP_TABLES(X)
#undef X
};

/* A plan is trusted: nothing looks, while it runs, whether an index of it is
 * past its table or a number is 0 that must not be. What `cuplatch` makes or
 * bakes holds; look at one that is written by hand once, in a test or at the
 * start. Returns null, or what is wrong in a few words; then `thing`, if not
 * null, is the thing that it is about, or CUP_NONE for the plan as a whole. */
CUP_FLASH char *cup_plan_check(CUP_FLASH struct cup_plan *plan,
                               cup_index *thing);

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

/* What is timed is met to 50 ms: passes that are nearer than this gain nothing.
 */
#define CUP_WAIT_LEAST_MS 10

/* How many ms from the last pass until a sensor is due or anything timed
 * happens, so how long the caller may sleep: CUP_WAIT_LEAST_MS at least, and
 * while something runs at most half of the site's `late`. What wakes it
 * earlier is a word, a button, bytes of a sensor that speaks by itself. A board
 * that was built without QUIET has a pass a scan: then it is that. */
uint32_t cup_site_wait(const struct cup_site *site);

/* The same for what runs alone: ms until it may end. For a caller that has a
 * pass each scan anyway, and one in between where something ends; while nothing
 * runs it is a scan. */
uint32_t cup_site_ends(const struct cup_site *site);

/* Everything off, for good: the program ends. */
void cup_site_shut_down(const struct cup_site *site,
                        const struct cup_sink *sink);

/* Whether a pump's output is to be on. */
bool cup_site_runs(const struct cup_site *site, cup_index pump);

/* Where a positional output is to be now, 0 to 10000 hundredths of a per cent;
 * of any other, 0 or 10000. `way` is 1 while it opens, -1 while it shuts, 0
 * when it has arrived; may be null. */
uint16_t cup_site_place(const struct cup_site *site, cup_index pump, int *way);

/* The port could or could not drive a pump's output. Told as an alert; a pump
 * that does not obey stays off, and so does all that shares its tanks. */
void cup_site_drove(const struct cup_site *site, cup_index pump, bool failed);

/* The reading of a sensor or a tank, by its number as a thing. Any other
 * number gives a lost reading. */
struct cup_reading cup_site_reading(const struct cup_site *site,
                                    cup_index thing);

/* The value of a sensor or a tank as it is shown and as it starts things:
 * the reading's own, or the steady one where that was asked for. */
cup_value cup_site_shown(const struct cup_site *site, cup_index thing);

/* The latest accepted sample of a sensor, without smoothing, in its unit. */
cup_value cup_site_latest(const struct cup_site *site, cup_index sensor);

/* Age of the last good sample behind a sensor or a tank, in ms. */
uint32_t cup_site_age_ms(const struct cup_site *site, cup_index thing);

/* What the level of a tank may be, in hundredths of a per cent; of any other
 * thing, or where it goes by its number, both are that. Returns why it is a
 * span: CUP_REASON_LEAPT, CUP_REASON_NO_READING (it was not read for long
 * enough since a first start), CUP_REASON_READING_LOST (its thermometer's), or
 * why its last samples were none; CUP_REASON_NONE: it is none. */
uint8_t cup_site_span(const struct cup_site *site, cup_index thing,
                      cup_value *low, cup_value *high);

/* Why a pump is as it is. */
struct cup_cause cup_site_why(const struct cup_site *site, cup_index pump);

/* Whether a duty asks for its pump now. */
bool cup_site_asks(const struct cup_site *site, cup_index duty);

/* Whether a dosed duty is out of doses: it stands as an alert. */
bool cup_site_gave_up(const struct cup_site *site, cup_index duty);

/* Why a duty asks, or does not. */
struct cup_cause cup_site_why_duty(const struct cup_site *site, cup_index duty);

/* The mark that a duty starts or stops at now. */
cup_value cup_site_mark(const struct cup_site *site, cup_index duty, bool stop);

/* How the site does as a whole: for status lamps and sounders. */
enum cup_mood cup_site_mood(const struct cup_site *site);

/* Lamps lit of a bar now: none while its level is lost. */
uint8_t cup_site_lit(const struct cup_site *site, cup_index bar);

/* Whether it is day, as a daylight of the plan says. */
bool cup_site_is_day(const struct cup_site *site, cup_index day);

/* The clock on the wall, in s since the year 1970 began; 0 without one. */
uint32_t cup_site_clock_s(const struct cup_site *site);

/* A setting as it is now, in the unit of cup_setting_unit(). */
int32_t cup_site_setting(const struct cup_site *site, cup_index setting);
uint8_t cup_setting_unit(CUP_FLASH struct cup_plan *plan, cup_index setting);

/* What the plan says of a setting, in the same unit. */
int32_t cup_setting_written(CUP_FLASH struct cup_plan *plan, cup_index setting);

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

static inline cup_index cup_duty_thing(CUP_FLASH struct cup_plan *plan,
                                       cup_index duty)
{
    return (cup_index)(cup_pump_thing(plan, plan->pump_count) + duty);
}

static inline cup_index cup_source_thing(CUP_FLASH struct cup_plan *plan,
                                         cup_index source)
{
    return (cup_index)(cup_duty_thing(plan, plan->duty_count) + source);
}

static inline cup_index cup_day_thing(CUP_FLASH struct cup_plan *plan,
                                      cup_index day)
{
    return (cup_index)(cup_source_thing(plan, plan->source_count) + day);
}

static inline cup_index cup_alert_thing(CUP_FLASH struct cup_plan *plan,
                                        cup_index alert)
{
    return (cup_index)(cup_day_thing(plan, plan->day_count) + alert);
}

static inline cup_index cup_things(CUP_FLASH struct cup_plan *plan)
{
    return cup_alert_thing(plan, plan->alert_count);
}

/* A tank, by its number as a thing. */
static inline CUP_FLASH struct cup_tank *
cup_tank_of(CUP_FLASH struct cup_plan *plan, cup_index thing)
{
    return &plan->tanks[(cup_index)(thing - plan->sensor_count)];
}

/* The sensor behind a sensor or a tank. */
static inline cup_index cup_thing_sensor(CUP_FLASH struct cup_plan *plan,
                                         cup_index thing)
{
    return thing < plan->sensor_count ? thing
                                      : cup_tank_of(plan, thing)->sensor;
}

/* The unit of a sensor's or a tank's value. */
uint8_t cup_thing_unit(CUP_FLASH struct cup_plan *plan, cup_index thing);

/* Steering: words, see word.h, are inputs of a pass. */

/* Whether a word would be taken. CUP_ERROR_NAME: no such pump, duty or verb.
 * CUP_ERROR_RANGE: a hand run of 0 ms or longer than its limit, a setting
 * outside what it may be, a clock before 2020. CUP_ERROR_ORDER: marks would
 * cross. */
CUP_MUST_USE enum cup_error cup_site_may(const struct cup_site *site,
                                         const struct cup_word *word);

/* Takes a word in for the next pass, or returns why not and changes
 * nothing. */
CUP_MUST_USE enum cup_error cup_site_steer(const struct cup_site *site,
                                           uint32_t now_ms,
                                           const struct cup_word *word);

/* What a button is now, closed or open: call it as often as you can, between
 * passes, too, since what is not closed in two calls 30 ms apart is not heard.
 * What it says is a word for the next pass; returns why not, when that is
 * refused. */
enum cup_error cup_site_press(const struct cup_site *site, cup_index button,
                              uint32_t now_ms, bool closed);

/* Takes in several words of one moment, in their order: they are judged
 * together, as they will stand, and all are taken or none. `wrong` (may be
 * null) becomes the number of the first that is refused. Settings of one word
 * are looked for in all the others: keep `count` to some dozens. */
CUP_MUST_USE enum cup_error cup_site_may_all(const struct cup_site *site,
                                             const struct cup_word *words,
                                             size_t count, size_t *wrong);
CUP_MUST_USE enum cup_error cup_site_steer_all(const struct cup_site *site,
                                               uint32_t now_ms,
                                               const struct cup_word *words,
                                               size_t count, size_t *wrong);

CUP_C_ENDS

#endif
