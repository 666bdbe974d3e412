/* What is known of levels, for what decides: readings, spans and what was heard
 * before. */
#ifndef CUPLATCH_SITE_KNOWN_H
#define CUPLATCH_SITE_KNOWN_H

#include "own.h"

#if CUP_USES_AIR
/* The temperature of the air, in hundredths of a C: the last that was read,
 * though its thermometer is lost now; 20 C before the first. */
static inline int32_t cup_in_levels_air(const struct cup_sensor_state *state)
{
    return cup_usable(state->reading) || state->reading.value != 0
               ? state->reading.value
               : CUP_ECHO_AIR_CDEG;
}
#endif

/* A sensor with all that is the site's of it; and where one has the former
 * already. */
static inline struct cup_sensor_use
cup_in_pass_use_by(const struct cup_site *site, cup_index sensor,
                   CUP_FLASH struct cup_sensor *plan,
                   struct cup_sensor_state *state)
{
    (void)sensor;
    struct cup_sensor_use use = {
        .sensor = plan,
        .state = state,
        .cells = site->cells + plan->cells,
        .order = site->order + plan->cells,
    };
    CUP_WHERE(TALLIES, use.tally = &site->tallies[sensor];)
    CUP_WHERE(CHECKS, {
        if (plan->checks)
            use.checks = &site->checks[plan->checks_own];
    })
    CUP_WHERE(AIR, {
        if (plan->air != CUP_NONE)
            use.air_cdeg = cup_in_levels_air(&site->sensors[plan->air]);
    })
    return use;
}

static inline struct cup_sensor_use cup_in_pass_use(const struct cup_site *site,
                                                    cup_index sensor)
{
    return cup_in_pass_use_by(site, sensor, &site->plan->sensors[sensor],
                              &site->sensors[sensor]);
}

/* The reading of a tank that is told by two floats. */
struct cup_reading cup_in_levels_by_floats(const struct cup_site *site,
                                           CUP_FLASH struct cup_tank *tank);

/* Whether a thing is such a tank, and its floats contradict each other. */
bool cup_in_levels_differ(const struct cup_site *site, cup_index thing);

/* The span of a tank; null where there is none. */
#if CUP_USES_SPANS
static inline struct cup_span_state *
cup_in_spans_of(const struct cup_site *site, cup_index thing)
{
    if (thing < site->plan->sensor_count)
        return NULL;
    CUP_FLASH struct cup_tank *tank = cup_tank_of(site->plan, thing);
    return tank->span ? &site->spans[tank->span_own] : NULL;
}
#endif

struct cup_pass;

/* spans.c: a sample, or none, of the sensor of tanks; a pump begins or ceases
 * to move them; their sensor was lost; what came of it is told. True when it
 * may decide something. */
bool cup_in_spans_hear(const struct cup_site *site, cup_index tank,
                       const struct cup_sensor_use *use, uint32_t now);
void cup_in_spans_switch(const struct cup_site *site,
                         CUP_FLASH struct cup_pump *pump, bool on);
void cup_in_spans_lose(const struct cup_site *site, cup_index sensor);
void cup_in_spans_begin(const struct cup_site *site, uint32_t now_ms);
void cup_in_spans_tell(struct cup_pass *pass);

/* Why the pump looked at, which runs, has failed by the level that it draws
 * from: NONE when it has not. And what that was is forgotten, by a person. */
uint8_t cup_in_spans_drawn(struct cup_pass *pass);
void cup_in_spans_clear(const struct cup_site *site, cup_index pump);

struct cup_word;

/* A person looked into a tank, and says how full it is. */
void cup_in_spans_see(const struct cup_site *site, uint32_t now,
                      const struct cup_word *word);

/* The sensor behind a sensor or a tank, and what is known of it. */
static CUP_LEAN cup_index cup_in_levels_sensor(const struct cup_site *site,
                                               cup_index thing)
{
    return cup_thing_sensor(site->plan, thing);
}

static inline struct cup_sensor_state *
cup_in_levels_behind(const struct cup_site *site, cup_index thing)
{
    return &site->sensors[cup_in_levels_sensor(site, thing)];
}

/* What is known of a sensor or a tank; cup_site_reading() has all of it. */
static CUP_TINY uint8_t cup_in_levels_flags(const struct cup_site *site,
                                            cup_index thing)
{
    CUP_WHERE(FLOATS, {
        cup_index sensors = site->plan->sensor_count;
        if (thing >= sensors) {
            CUP_FLASH struct cup_tank *tank = cup_tank_of(site->plan, thing);
            if (tank->form == CUP_TANK_FLOATS)
                return cup_in_levels_by_floats(site, tank).flags;
        }
    })
    return cup_in_levels_behind(site, thing)->reading.flags;
}

/* The same for what decides: a tank of which nothing is believed yet has no
 * level. */
static inline uint8_t cup_in_levels_sound(const struct cup_site *site,
                                          cup_index thing)
{
    uint8_t flags = cup_in_levels_flags(site, thing);
    CUP_WHERE(SPANS, {
        const struct cup_span_state *span = cup_in_spans_of(site, thing);
        if (span && !cup_span_is(span, CUP_SPAN_KNOWN))
            flags &= (uint8_t)~CUP_READING_KNOWN;
    })
    return flags;
}

/* What marks are compared with, of a sensor or a tank. */
static inline cup_mark cup_in_levels_mark(const struct cup_site *site,
                                          cup_index thing)
{
    return CUP_IF_ELSE(
        VALUES,
        thing < site->plan->sensor_count
            ? site->sensors[thing].reading.value
            : site->tanks[thing - site->plan->sensor_count].value,
        cup_in_levels_behind(site, thing)->reading.value);
}

/* What a decision takes of a level: the end of its span that does least harm.
 * Of what has none, what marks are compared with. */
enum cup_end { CUP_END_LOW, CUP_END_HIGH };

static inline cup_mark cup_in_levels_end(const struct cup_site *site,
                                         cup_index thing, enum cup_end end)
{
    (void)end;
    CUP_WHERE(SPANS, {
        const struct cup_span_state *span = cup_in_spans_of(site, thing);
        if (span)
            return end == CUP_END_LOW ? span->low : span->high;
    })
    return cup_in_levels_mark(site, thing);
}

#if CUP_USES_ALSOS
/* The end that keeps a second condition from asking: the upper one of what must
 * be low, the lower one of what must be high. */
static inline enum cup_end
cup_in_levels_end_of(CUP_FLASH struct cup_latch *latch)
{
    return CUP_COUNTS(latch->start) < CUP_COUNTS(latch->stop) ? CUP_END_HIGH
                                                              : CUP_END_LOW;
}
#endif

/* The end that a guard looks at: of a source what may be left in it. */
static inline enum cup_end
cup_in_levels_end_for(CUP_FLASH struct cup_guard *guard)
{
    return guard->kind == CUP_GUARD_DESTINATION ? CUP_END_HIGH : CUP_END_LOW;
}

/* Whether the level of a source is more than one sample's word: it is not
 * smoothed, or without its best sample it would be clear, too; in levels.c. */
bool cup_in_levels_sure(const struct cup_site *site,
                        CUP_FLASH struct cup_guard *guard);

static inline bool cup_in_levels_decides(const struct cup_site *site,
                                         cup_index thing)
{
    return cup_in_levels_sound(site, thing) & CUP_READING_KNOWN;
}

static CUP_TINY bool cup_in_levels_usable(const struct cup_site *site,
                                          cup_index thing)
{
    return cup_in_levels_flags(site, thing) & CUP_READING_KNOWN;
}

/* What marks are compared with, held steady as it is shown: that starts
 * things. */
static inline cup_mark cup_in_levels_shown(const struct cup_site *site,
                                           cup_index thing)
{
    CUP_WHERE(CHECKS, {
        if (thing >= site->plan->sensor_count)
            return site->tanks[thing - site->plan->sensor_count].shown;
        CUP_FLASH struct cup_sensor *sensor = &site->plan->sensors[thing];
        if (sensor->checks && sensor->checks->steady_ms > 0)
            return site->checks[sensor->checks_own].shown;
    })
    return cup_in_levels_mark(site, thing);
}

/* The same for what starts things: of a level that did not leap, as it is
 * shown.
 */
static inline cup_mark cup_in_levels_shown_end(const struct cup_site *site,
                                               cup_index thing,
                                               enum cup_end end)
{
    (void)end;
    CUP_WHERE(SPANS, {
        const struct cup_span_state *span = cup_in_spans_of(site, thing);
        if (span && cup_span_is_wide(span))
            return end == CUP_END_LOW ? span->low : span->high;
    })
    return cup_in_levels_shown(site, thing);
}

/* levels.c, too: the value of such a thing, to be told, and of an end of it;
 * what tells of a tank's
 * depth in mm10, or a sensor's value, for proofs and watches; the tank that a
 * guard looks at, null when that is none. */
cup_value cup_in_levels_value(const struct cup_site *site, cup_index thing);
cup_value cup_in_levels_end_value(const struct cup_site *site, cup_index thing,
                                  enum cup_end end);
cup_value cup_in_levels_depth(const struct cup_site *site, cup_index thing);
struct cup_tank_state *cup_in_levels_guarded(const struct cup_site *site,
                                             CUP_FLASH struct cup_guard *guard);

/* weigh.c: what was heard, weighed against how far a thing may move. The
 * slack of all is reset by each pass, and narrowed by all that look at one: to
 * the nearer of two marks, to those of a latch, or to so much at most. All of
 * it is for where CUP_USES_SLACK. */
struct cup_before {
    cup_mark value;
    cup_mark shown;
    CUP_WHERE(SPANS, uint32_t now;)
    uint8_t flags;
};
struct cup_before cup_in_weigh_before(const struct cup_sensor_use *use,
                                      uint32_t now);
void cup_in_weigh_after(const struct cup_site *site, cup_index sensor,
                        const struct cup_sensor_use *use,
                        const struct cup_before *was);
void cup_in_weigh_marks(const struct cup_site *site, cup_index thing,
                        cup_mark value, cup_mark a, cup_mark b);
void cup_in_weigh_latch(const struct cup_site *site, cup_index thing,
                        cup_mark value, cup_mark shown,
                        CUP_NUMBERS struct cup_latch *latch,
                        const struct cup_latch_state *state);
static inline void cup_in_weigh_to(const struct cup_site *site, cup_index thing,
                                   uint32_t slack)
{
    if (slack < site->slack[thing])
        site->slack[thing] = (uint16_t)slack;
}

#endif
