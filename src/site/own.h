/* What a site keeps of itself from pass to pass: its flags, and our own time.
 */
#ifndef CUPLATCH_SITE_OWN_H
#define CUPLATCH_SITE_OWN_H

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

#endif
