/* A pass under way: what it looks at, and why what it finds is so. */
#ifndef CUPLATCH_SITE_PASS_H
#define CUPLATCH_SITE_PASS_H

#include "known.h"

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

#endif
