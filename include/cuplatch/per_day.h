/* Limits of a day: how long a pump may run, how much it may give, how often it
 * may start. With a wall clock a day is a date: it ends at midnight, whatever
 * was off or set in between, and no date comes twice. Without one it is 24 h of
 * running controller.
 *
 * In use:
 *
 *     const struct cup_per_day hour = {.time_ms = 3600000};
 *     struct cup_per_day_state state = {0};
 *     cup_per_day_begin(&state, now_ms, 0, false);
 *     cup_per_day_start(&state);
 *     bool enough = cup_per_day_left(&hour, &state, run_ms) == 0; */
#ifndef CUPLATCH_PER_DAY_H
#define CUPLATCH_PER_DAY_H

#include "reason.h"

CUP_C_BEGINS

#define CUP_DAY_MS (UINT32_C(24) * 3600 * 1000)

/* A limit of 0 is none.
 *   time_ms    of running
 *   volume_ml  and volume_ms, the running time that gives it
 *   starts     how many */
struct cup_per_day {
    uint32_t time_ms;
    uint32_t volume_ml;
    uint32_t volume_ms;
    uint16_t starts;
};

/* All zero, then cup_per_day_begin().
 *   ran_ms     in runs that are over
 *   before_ms  of the run under way: what belongs to the day before
 *   date       days since 1970 began, by the wall clock; 0: not known */
struct cup_per_day_state {
    uint32_t began_ms;
    uint32_t ran_ms;
    uint32_t before_ms;
    uint16_t starts;
    uint16_t date;
};
CUP_ASSERT(sizeof(struct cup_per_day_state) == 16, "state has no padding");

/* A day begins, with so much of a run under way already behind it. */
void cup_per_day_begin(struct cup_per_day_state *state, uint32_t now_ms,
                       uint32_t run_ms, bool is_on);

/* Whether the day is over. `today` is the date by the wall clock, 0 without
 * one. A day that was under way when the clock was set has that date then; one
 * that is a day ahead of the clock, which was set back, goes on until the clock
 * has passed it, and one further ahead has the clock's date. */
bool cup_per_day_is_over(struct cup_per_day_state *state, uint32_t now_ms,
                         uint16_t today);

/* A pump starts; a run of run_ms is over. */
void cup_per_day_start(struct cup_per_day_state *state);
void cup_per_day_stop(struct cup_per_day_state *state, uint32_t run_ms);

/* ms of running that the day still allows, with run_ms of a run under way;
 * UINT32_MAX when nothing limits it. */
uint32_t cup_per_day_left(CUP_FLASH struct cup_per_day *day,
                          const struct cup_per_day_state *state,
                          uint32_t run_ms);

/* Which limit is reached: fills `cause`, but for what it is about, and returns
 * its reason. NONE, and no cause, when none is. Starts count only against a
 * pump that is off. */
uint8_t cup_per_day_cause(CUP_FLASH struct cup_per_day *day,
                          const struct cup_per_day_state *state,
                          uint32_t run_ms, bool is_on, struct cup_cause *cause);

CUP_C_ENDS

#endif
