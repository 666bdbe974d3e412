/* What the files of this room share: the flags of a pass and our own time. */
#ifndef CUPLATCH_SITE_INSIDE_H
#define CUPLATCH_SITE_INSIDE_H

#include "cuplatch/echo.h"
#include "cuplatch/site.h"

enum {
    PASS_BEGUN = 1,       /* something was called: time is known */
    PASS_BOOTED = 2,      /* the first pass is over */
    PASS_TOUCHED = 4,     /* heard or steered since the last pass */
    PASS_RUNNING = 8,     /* some pump is on */
    PASS_LATE = 16,       /* found late before the pass came */
    PASS_ON_HOLD = 32,    /* a person said hold */
    PASS_HOLD_NEW = 64,   /* ... or go, and that was not told */
    PASS_ASKING = 128,    /* in the middle of a look for what is due */
    PASS_AGAIN = 256,     /* a channel became free in it: look again */
    PASS_FAILING = 512,   /* the port can't drive some output */
    PASS_DROVE = 1024,    /* ... or can again, and that was not told */
    PASS_SET = 2048,      /* a setting changed and was not told */
    PASS_CLOCK = 4096,    /* the clock was set and that was not told */
    PASS_WRITE = 8192,    /* the journal has something new ... */
    PASS_AT_ONCE = 16384, /* ... that must not wait */
    PASS_SHUT = 32768     /* shut down: nothing starts any more */
};

/* The longest a site is quiet, so that no timer is looked at too seldom. */
#define QUIET_MAX (UINT32_C(1) << 30)

/* Our own time: the caller's, except that it never goes back. */
static CUP_LEAN uint32_t cup_in_pass_time(const struct cup_pass_state *pass,
                                          uint32_t now_ms)
{
    uint32_t step = now_ms - pass->seen_ms;
    return pass->clock_ms + (step < CUP_TIME_BACK ? step : 0);
}

#if !CUP_USES_PACES
/* Whether it is time to ask all sensors. */
static inline bool cup_in_pass_all_due(const struct cup_site *site,
                                       uint32_t now)
{
    return cup_is_over(now, &site->pass->asked_ms,
                       &site->plan->sensors->every_ms);
}
#endif

/* The number of a thing's own state; where there is but one it is known. */
static inline cup_index cup_in_pass_own(cup_index count, cup_index own)
{
    return count == 1 ? 0 : own;
}

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

/* What a pass, or a look for due sensors, holds of its site. Where the core is
 * built for one site alone its address is known before anything runs, and is
 * held nowhere. */
#ifdef CUP_ONE_SITE
#define HOLDS_SITE
#define hold_site(held, of) ((void)(held), (void)(of))
#define site_of(held) ((void)(held), &CUP_ONE_SITE)
#else
#define HOLDS_SITE const struct cup_site *site;
#define hold_site(held, of) ((held)->site = (of))
#define site_of(held) ((held)->site)
#endif

/* A pass under way. `halt` is a reason for everything to stop; `event` is the
 * next to be told, and its cause what was found out last. */
struct cup_pass {
    HOLDS_SITE
    const struct cup_sink *sink;
    struct cup_event event;
    struct cup_cause halt;
    uint32_t now;
    CUP_WHERE(QUIET, uint32_t quiet;)
    /* the pump that is looked at, its state and its number */
    CUP_FLASH struct cup_pump *pump_plan;
    struct cup_pump_state *pump;
    cup_index i;
    /* the duty that is looked at, its latch and its number */
    CUP_FLASH struct cup_duty *duty;
    struct cup_latch_state *latch;
    cup_index d;
    cup_index running; /* outputs that are on, and pumps among them */
    cup_index pumps_running;
    CUP_WHERE(CLOCK, uint16_t minute;) /* of the day */
    bool still;
};

/* Turns to a pump, or to a duty. */
static inline void cup_in_pass_pump(struct cup_pass *pass, cup_index i)
{
    pass->i = i;
    pass->pump_plan = &site_of(pass)->plan->pumps[i];
    pass->pump = &site_of(pass)->pumps[i];
}

/* Turns to a duty, and to its pump. */
static inline void cup_in_pass_duty(struct cup_pass *pass, cup_index d)
{
    pass->d = d;
    pass->duty = &site_of(pass)->plan->duties[d];
    pass->latch = &site_of(pass)->duties[d].latch;
    cup_in_pass_pump(pass, pass->duty->pump);
}

/* Minute of the day; CUP_NO_MINUTE without a clock. */
static inline uint16_t cup_in_clock_minute(const struct cup_pass *pass)
{
    (void)pass;
    return CUP_IF_ELSE(CLOCK, pass->minute, CUP_NO_MINUTE);
}

/* Nothing that was looked at can come out otherwise before so many ms. */
static inline void cup_in_quiet_for(struct cup_pass *pass, uint32_t ms)
{
    (void)pass, (void)ms;
    CUP_WHERE(QUIET, pass->quiet = cup_least(pass->quiet, ms);)
}

/* Notes a cause, and returns its reason. `about` is CUP_NONE when it is the
 * pump itself, or the site. */
static inline uint8_t cup_in_because_of(struct cup_pass *pass, uint8_t reason,
                                        cup_index about, int32_t value,
                                        int32_t limit)
{
    pass->event.cause.about = about;
    return cup_cause_set(&pass->event.cause, reason, value, limit);
}

/* Notes a cause whose numbers are values. */
static inline uint8_t cup_in_because_values(struct cup_pass *pass,
                                            uint8_t reason, cup_index about,
                                            cup_value value, cup_value limit)
{
    return cup_in_because_of(pass, reason, about, value, limit);
}

/* Notes a cause that has no numbers. */
static inline uint8_t cup_in_because(struct cup_pass *pass, uint8_t reason,
                                     cup_index about)
{
    return cup_in_because_values(pass, reason, about, 0, 0);
}

/* A time as a number of a cause. */
static CUP_LEAN int32_t cup_in_number_of_ms(uint32_t ms)
{
    return ms > INT32_MAX ? INT32_MAX : (int32_t)ms;
}

/* How long a pump's run under way is; 0 when it is off. */
static inline uint32_t cup_in_pass_run(const struct cup_pump_state *pump,
                                       uint32_t now)
{
    return cup_pump_is(pump, CUP_PUMP_IS_ON) ? cup_elapsed(now, pump->since_ms)
                                             : 0;
}

/* tell.c: tells what was found out last, of a thing or of the pump looked at;
 * or a reason alone. */
void cup_in_tell(struct cup_pass *pass, cup_index of, uint8_t kind);
void cup_in_tell_pump(struct cup_pass *pass, uint8_t kind);
void cup_in_tell_note(struct cup_pass *pass, cup_index of, uint8_t kind,
                      uint8_t reason);

/* why.c: finds out why, and returns the reason. A reading is lost or unknown;
 * the pump looked at is kept off by a guard or by itself, its switch is where
 * it is, it is wanted or not, it has to wait (NONE: it has not); the duty
 * looked at asks or does not. What decides before any duty does, NONE when
 * nothing: then the pass has turned to the pump's duty. The first thing that
 * the duty looks at and that has not `flag`; CUP_NONE when all have. */
uint8_t cup_in_why_lost(struct cup_pass *pass, cup_index thing, uint8_t lost,
                        uint8_t unknown);
uint8_t cup_in_why_guard(struct cup_pass *pass, uint8_t reason);
uint8_t cup_in_why_rest(struct cup_pass *pass);
uint8_t cup_in_why_mode(struct cup_pass *pass);
uint8_t cup_in_why_wish(struct cup_pass *pass);
uint8_t cup_in_why_wait(struct cup_pass *pass);
uint8_t cup_in_why_duty(struct cup_pass *pass);
uint8_t cup_in_why_before_duty(struct cup_pass *pass);
cup_index cup_in_why_without(const struct cup_pass *pass, uint8_t flag);

/* clock.c: time by the clock on the wall. `now` is our time. */
void cup_in_clock_set(const struct cup_site *site, uint32_t now,
                      uint32_t clock_s);
void cup_in_clock_tick(struct cup_pass *pass);
uint16_t cup_in_clock_date(const struct cup_pass *pass); /* 0: none */
uint32_t cup_in_clock_midnight(const struct cup_pass *pass);
uint32_t cup_in_clock_next_minute(const struct cup_pass *pass);

/* daylight.c: the clock goes on, day and night come. */
void cup_in_daylight_step(struct cup_pass *pass);

/* duties.c: what duties ask for, and which pumps they get. */
void cup_in_duties_step(struct cup_pass *pass);

/* wants.c: whether a duty asks for its pump, and whether it would, whoever or
 * whatever keeps it off. */
bool cup_in_wants(const struct cup_site *site, cup_index duty);
bool cup_in_wants_despite(const struct cup_site *site, cup_index duty);

/* settings.c: a duty's numbers as they are now, where they can be read: in
 * `room` if need be. */
CUP_NUMBERS struct cup_latch *cup_in_settings_latch(const struct cup_site *site,
                                                    cup_index duty,
                                                    struct cup_latch *room);
CUP_NUMBERS struct cup_dose *cup_in_settings_dose(const struct cup_site *site,
                                                  cup_index duty,
                                                  struct cup_dose *room);
CUP_NUMBERS struct cup_turn *cup_in_settings_turn(const struct cup_site *site,
                                                  cup_index duty,
                                                  struct cup_turn *room);
/* These numbers of the duty that the pass looks at. */
#if CUP_USES_SETTINGS
#define cup_in_pass_latch(pass, room)                                          \
    cup_in_settings_latch(site_of(pass), (pass)->d, room)
#define cup_in_pass_dose(pass, room)                                           \
    cup_in_settings_dose(site_of(pass), (pass)->d, room)
#define cup_in_pass_turn(pass, room)                                           \
    cup_in_settings_turn(site_of(pass), (pass)->d, room)
#else
#define cup_in_pass_latch(pass, room) cup_latch_of(&(pass)->duty->latch, room)
#define cup_in_pass_dose(pass, room) ((void)(room), (pass)->duty->dose)
#define cup_in_pass_turn(pass, room) ((void)(room), (pass)->duty->turn)
#endif
void cup_in_settings_count(const struct cup_site *site);

/* What a duty's numbers are about, as the journal knows things; 0 when that is
 * nothing. */
uint32_t cup_in_settings_about(CUP_FLASH struct cup_plan *plan, cup_index duty);

/* After a journal was read: marks that would meet or cross are as written. */
void cup_in_settings_settle(const struct cup_site *site);
void cup_in_settings_tell(struct cup_pass *pass);
/* Words of one moment, and the one that is judged. */
struct cup_said {
    const struct cup_word *words;
    size_t count;
    const struct cup_word *word;
};
enum cup_error cup_in_settings_may(const struct cup_site *site,
                                   const struct cup_said *said);
void cup_in_settings_take(const struct cup_site *site,
                          const struct cup_word *word);

#if CUP_USES_CHOICES
/* choices.c: what people chose, in rows: of each pump, of each duty, and of the
 * site last. Where they are, and what is changed of one; the duty looked at is
 * skipped, and was; why something is off by a row; the duty looked at asks; a
 * pass looks at what stands; the power was off; a record was read. */
struct cup_choice_state *cup_in_choices_site(const struct cup_site *site);
struct cup_choice_state *cup_in_choices_duty(const struct cup_site *site,
                                             cup_index duty);
void cup_in_choices_take(const struct cup_site *site, cup_index row,
                         uint32_t now, uint32_t for_ms);
void cup_in_choices_end(const struct cup_site *site, cup_index row);
void cup_in_choices_skip(const struct cup_site *site, cup_index duty);
void cup_in_choices_skipped(struct cup_pass *pass);
uint8_t cup_in_choices_cause(struct cup_pass *pass, cup_index row,
                             uint8_t forever, uint8_t for_now, cup_index about);
void cup_in_choices_note(const struct cup_pass *pass);

/* waits.c: the duty looked at wants water, or does not: one that is kept off
 * for as long as the site is patient is told of. */
void cup_in_waits_look(struct cup_pass *pass, bool wants);

/* Whether it was kept off when it was looked at last. */
#if CUP_USES_CHOICES
static inline bool cup_in_waits_is(const struct cup_site *site, cup_index duty)
{
    return cup_choice_is(&site->choices[site->plan->pump_count + duty],
                         CUP_CHOICE_KEPT);
}
#endif
void cup_in_choices_step(struct cup_pass *pass);
void cup_in_choices_age(const struct cup_site *site, uint32_t off_ms);
void cup_in_choices_recount(const struct cup_site *site, bool unkept);

static inline bool cup_in_choices_off(const struct cup_site *site,
                                      cup_index duty)
{
    return cup_choice_is(&site->choices[site->plan->pump_count + duty],
                         CUP_CHOICE_STANDS);
}
#endif

/* hold.c: the site goes on hold, or on. */
void cup_in_hold_set(const struct cup_site *site, uint32_t now, bool hold);

/* trips.c: a run of the pump looked at reached its longest for a duty, which
 * trips; whether the pump is to trip, too. Then: nothing can be said against
 * the pump any more; the duty that it ran for is done; what the tries of the
 * duty looked at come to by now; a person clears a duty, or all of a pump. */
bool cup_in_trips_trip(struct cup_pass *pass);
void cup_in_trips_acquit(const struct cup_pass *pass);
void cup_in_trips_done(const struct cup_pass *pass);
void cup_in_trips_step(struct cup_pass *pass);
void cup_in_trips_clear(const struct cup_site *site, cup_index duty);
void cup_in_trips_clear_all(const struct cup_site *site, cup_index pump);

/* routes.c: valves that must be open for a pump. They are wanted where it is;
 * why it has to wait for one; one of the duty looked at that cannot open; how
 * many count in the pump's own group; whether a pump needs one that runs. */
void cup_in_routes_open(const struct cup_pass *pass);
uint8_t cup_in_routes_wait(struct cup_pass *pass);
cup_index cup_in_routes_kept_shut(const struct cup_pass *pass);
uint8_t cup_in_routes_in_group(const struct cup_pass *pass);
bool cup_in_routes_in_use(const struct cup_pass *pass, cup_index valve);
CUP_FLASH struct cup_duty *cup_in_routes_of(const struct cup_site *site,
                                            cup_index pump);

/* movers.c: counts an output in or out, where it is on or may be: at the tanks
 * that it moves, and in its group. */
void cup_in_movers_count(const struct cup_site *site,
                         CUP_FLASH struct cup_pump *pump, bool in);

/* fails.c: outputs that the port cannot drive. The reason why the pump looked
 * at stays off, or `no`, and one that fails is counted as running; its cause;
 * and what came and went is told. */
uint8_t cup_in_fails_guard(struct cup_pass *pass, uint8_t no);
uint8_t cup_in_fails_cause(struct cup_pass *pass, uint8_t reason);
void cup_in_fails_tell(struct cup_pass *pass);

#if CUP_USES_PROOFS
/* What is known of the proof of the pump looked at. */
static CUP_LEAN struct cup_proof_state *
cup_in_pass_proof(const struct cup_pass *pass)
{
    return &site_of(pass)->proofs[cup_in_pass_own(site_of(pass)->plan->proofs,
                                                  pass->pump_plan->proof_own)];
}
#endif

/* onces.c: whether what is there, or is not, is to be told now; `news` when it
 * came or went. `which` is its place in the onces, `about` the thing. */
bool cup_in_onces_tell(struct cup_pass *pass, cup_index which, cup_index about,
                       bool there, bool news);
bool cup_in_onces_every(struct cup_pass *pass, cup_index which, cup_index about,
                        bool there, uint32_t repeat_ms);

/* blind.c: whether a guard that says no is not heard this time, since nobody
 * can see into its tank, and something else watches the pump. Where nothing
 * does, somebody is asked to look in. */
bool cup_in_blind_may(struct cup_pass *pass, CUP_FLASH struct cup_guard *guard);

/* quiet.c: nothing can come of the pump looked at before so many ms. */
void cup_in_quiet_pump(struct cup_pass *pass);

/* act.c: guards, proofs, stops and starts. */
void cup_in_act_step(struct cup_pass *pass);

/* watches.c: watches and alerts. */
void cup_in_watches_step(struct cup_pass *pass);

/* bind.c: the first call of all: rests and waits count from here. */
void cup_in_bind_begin(const struct cup_site *site, uint32_t now_ms);

/* hear.c: what must be seen to before anything is heard; and a pass that comes
 * too late while something runs, so many ms after the last, is marked. */
void cup_in_hear_first(const struct cup_site *site, uint32_t now_ms);
void cup_in_hear_late(const struct cup_site *site, uint32_t step);

/* presses.c: somebody said a word: what a button said of the same is its own no
 * more. */
void cup_in_presses_disown(const struct cup_site *site,
                           const struct cup_word *word);

/* The switch that a verb sets: auto, off or hand. */
static inline enum cup_mode cup_in_steer_mode(uint8_t verb)
{
    static CUP_FLASH uint8_t modes[] = {CUP_MODE_AUTO, CUP_MODE_OFF,
                                        CUP_MODE_HAND};
    return (enum cup_mode)modes[verb];
}

/* parts.c: one of the parts of a sensor was heard; tells which of them stray.
 */
void cup_in_parts_hear(const struct cup_site *site, cup_index sensor,
                       cup_index part, uint32_t now);
void cup_in_parts_tell(struct cup_pass *pass);

#endif
