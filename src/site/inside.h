/* What the files of this room share: the flags of a pass and our own time. */
#ifndef CUPLATCH_SITE_INSIDE_H
#define CUPLATCH_SITE_INSIDE_H

#include "cuplatch/site.h"

enum {
    PASS_BEGUN = 1,    /* something was called: time is known */
    PASS_BOOTED = 2,   /* the first pass is over */
    PASS_TOUCHED = 4,  /* heard or steered since the last pass */
    PASS_RUNNING = 8,  /* some pump is on */
    PASS_LATE = 16,    /* found late before the pass came */
    PASS_ON_HOLD = 32, /* a person said hold */
    PASS_HOLD_NEW = 64 /* ... or go, and that was not told */
};

/* The longest a site is quiet, so that no timer is looked at too seldom. */
#define QUIET_MAX (UINT32_C(1) << 30)

/* Our own time: the caller's, except that it never goes back. */
static inline uint32_t inner_time(const struct cup_pass_state *pass,
                                  uint32_t now_ms)
{
    uint32_t step = now_ms - pass->seen_ms;
    return pass->clock_ms + (step < CUP_TIME_BACK ? step : 0);
}

/* The reading of a sensor or a tank that the plan has. */
static inline struct cup_reading cup_reading_of(const struct cup_site *site,
                                                cup_index thing)
{
    if (thing < site->plan->sensor_count)
        return site->sensors[thing].reading;
    cup_index tank = (cup_index)(thing - site->plan->sensor_count);
    struct cup_reading level =
        site->sensors[site->plan->tanks[tank].sensor].reading;
    level.value = site->tanks[tank].value;
    level.unit = CUP_UNIT_PERCENT;
    return level;
}

/* The first call of all: rests and waits count from here. */
void cup_site_begin(const struct cup_site *site, uint32_t now_ms);

/* Marks a pass that comes too late while something runs. */
void cup_site_check_late(const struct cup_site *site, uint32_t now_ms);

#endif
