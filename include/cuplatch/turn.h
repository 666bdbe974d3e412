/* A turn: a run of a stated length that comes by itself. A flood comes at
 * dawn, then every so often by day, and never further apart than a limit, day
 * or night, nor closer together than another; a timed one every so often, or
 * at times of the clock. A turn that is kept from running is owed, and what is
 * left of it is given later; when the next falls due, that is given instead:
 * turns never pile up. What is owed for too long is missed, and counted; what a
 * person keeps off is never owed.
 *
 * In use:
 *
 *     const struct cup_turn flood = {.run_ms = 540000, .every_ms = 9000000};
 *     struct cup_turn_state state = {0};
 *     cup_turn_boot(&flood, &state, now_ms);
 *     cup_turn_step(&flood, &state, now_ms, &seen);
 *     if (!is_on && cup_turn_asks(&state))
 *         cup_turn_begin(&state, now_ms); */
#ifndef CUPLATCH_TURN_H
#define CUPLATCH_TURN_H

#include "reason.h"

CUP_C_BEGINS

/* Minutes of a day that a turn can't be at: no clock. */
#define CUP_NO_MINUTE UINT16_MAX

/*   run_ms    how long it runs
 *   every_ms  from the start of the last one; 0: not by that
 *   apart_ms  never further apart, day or night; 0: no such limit
 *   least_ms  never closer together, start to start. 0: half of every_ms where
 *             `dawn` is set, else no such limit; but no limit at all where
 *             settings are not built, so that bake writes the half
 *   owed_ms   what could not begin is missed after so long, and comes no more;
 *             the next counts from when it was due. 0: half of every_ms; of the
 *             clock, with the next
 *   at        minutes of the day, at_count of them
 *   until_above  and until: ends early once that thing is above it; until_side
 *             is a mark on the side of it where the turn goes on
 *   day       only by day, as that daylight says; CUP_NONE: always
 *   dawn      comes at dawn; without a day, at boot */
struct cup_turn {
    uint32_t run_ms;
    uint32_t every_ms;
    uint32_t apart_ms;
    uint32_t least_ms;
    CUP_WHERE(OWED, uint32_t owed_ms;)
    CUP_WHERE(CLOCK, CUP_FLASH uint16_t *at;)
    cup_mark until_above;
    cup_mark until_side;
    CUP_UNLESS(VALUES, cup_value until_above_value;)
    cup_index until;
    CUP_WHERE(DAYS, cup_index day;)
    CUP_WHERE(CLOCK, uint8_t at_count;)
    bool dawn;
};

enum {
    CUP_TURN_OWED = 1,      /* asks for its pump */
    CUP_TURN_RUNS = 2,      /* its pump ran for it when last looked at */
    CUP_TURN_BEGUN = 4,     /* some of what is owed was given */
    CUP_TURN_EVER = 8,      /* there was one before, or a boot counts as one */
    CUP_TURN_LONG_AGO = 16, /* ... longer ago than the clock can tell */
    CUP_TURN_DAWN = 32,     /* dawn came, too soon after the last one */
    CUP_TURN_PASSED = 64,   /* its last time passed without it */
    CUP_TURN_WAS_OFF = 128, /* the power was, and no clock came since */
    CUP_TURN_TOLD = 256     /* that some were missed, and none came since */
};

/* All zero, then cup_turn_boot().
 *   started_ms  the last one
 *   from_ms     given up to here; of one that could not begin, or whose time
 *               passed, when it was due
 *   left_ms     of what is owed
 *   clock_min   looked at the clock up to here, in minutes since 1970 began; 0:
 *               it was not known yet
 *   missed      how many could not be given, and that was not told (once a
 *               repeat while none is given); saturates
 *   reached     how many in a row were ended before they began; saturates */
struct cup_turn_state {
    uint32_t started_ms;
    uint32_t from_ms;
    uint32_t left_ms;
    CUP_WHERE(CLOCK, uint32_t clock_min;)
    uint8_t missed;
    uint8_t reached;
    uint16_t flags;
};
CUP_ASSERT(sizeof(struct cup_turn_state) == 16 + 4 * CUP_USES_CLOCK,
           "state has no padding");

/* What a turn looks at in a pass. */
struct cup_turn_seen {
    uint32_t run_since_ms; /* when its run began, or went on after a hand run */
    uint32_t run_until_ms; /* now, or when its run ended */
    uint32_t clock_min;    /* minutes since 1970 began; 0: there is no clock */
    bool running;          /* its pump is on, and for it */
    bool is_day;           /* or there is no day to wait for */
    bool is_dawn;          /* in this pass */
    bool is_reached;       /* `until` is above its mark */
    bool is_off;           /* a person keeps it from running */
};

void cup_turn_boot(CUP_FLASH struct cup_turn *turn,
                   struct cup_turn_state *state, uint32_t now_ms);

/* Its pump starts for it: the turn is counted from now, or goes on where a
 * guard cut it short. */
void cup_turn_begin(struct cup_turn_state *state, uint32_t now_ms);

/* One that is due, and of which nothing was given yet, is left out: the next
 * counts from now. Whether there was one. */
bool cup_turn_skip(struct cup_turn_state *state, uint32_t now_ms);

/* Steps a turn. Returns ms until it wants to look again by itself. */
uint32_t cup_turn_step(CUP_NUMBERS struct cup_turn *turn,
                       struct cup_turn_state *state, uint32_t now_ms,
                       const struct cup_turn_seen *seen);

static inline bool cup_turn_asks(const struct cup_turn_state *state)
{
    return state->flags & CUP_TURN_OWED;
}

/* Whether `limit_ms` or more passed since the last one started; 0 is never. */
bool cup_turn_is_over(const struct cup_turn_state *state, uint32_t now_ms,
                      CUP_NUMBERS uint32_t *limit_ms);

/* ms of it that are still to be given, were its run to end now. */
uint32_t cup_turn_owed(const struct cup_turn_state *state, uint32_t now_ms);

/* ms that must pass between the starts of two. */
uint32_t cup_turn_least(CUP_NUMBERS struct cup_turn *turn);

/* ms since the last one started, CUP_TIME_MAX_MS when longer; and ms until the
 * next, UINT32_MAX when a dawn or a clock decides. */
uint32_t cup_turn_age(const struct cup_turn_state *state, uint32_t now_ms);
uint32_t cup_turn_left(CUP_NUMBERS struct cup_turn *turn,
                       const struct cup_turn_state *state, uint32_t now_ms,
                       bool is_day);

CUP_C_ENDS

#endif
