/* A duty says what a pump is for. It only asks; guards have the last word.
 *
 *   keep   hold a level between two marks, as long as it takes
 *   dosed  the same a little at a time: a dose, a soak, and look again
 *   flood, timed  a run of a stated length that comes by itself: at dawn and
 *          every so often by day, at times of the clock
 *   also   a second condition that must agree to start */
#ifndef CUPLATCH_DUTY_H
#define CUPLATCH_DUTY_H

#include "dose.h"
#include "latch.h"
#include "sensor.h"
#include "speed.h"
#include "tries.h"
#include "turn.h"

CUP_C_BEGINS

/* A second condition: `about` must be past its own start mark, too. Either of
 * the two stops the duty, or only both together. */
struct cup_also {
    struct cup_latch latch;
    cup_index about;
    bool both_stop;
};

/*   latch     the marks of what it keeps
 *   dose      null: as long as it takes
 *   also      null: nothing else must agree
 *   turn      not null: flood or timed, and the marks count for nothing
 *   speed     how far its output is driven; null: fully
 *   through   the valves, as pumps, that must be open: through_count of them
 *   keep      the thing it looks at; CUP_NONE for a turn that needs none
 *   pump      what it runs
 *   settings  the first of the plan's settings that are its; CUP_NONE: none
 *   dose_own, also_own, turn_own  the numbers of its states
 *   from, to  minutes of the day within which it may ask; equal: always
 *   line      it keeps the pressure of a line: past stop, the valve at the far
 *             end has shut */
struct cup_duty {
    struct cup_latch latch;
    CUP_WHERE(DOSES, CUP_FLASH struct cup_dose *dose;)
    CUP_WHERE(ALSOS, CUP_FLASH struct cup_also *also;)
    CUP_WHERE(TURNS, CUP_FLASH struct cup_turn *turn;)
    CUP_WHERE(SPEEDS, CUP_FLASH struct cup_speed *speed;)
    CUP_WHERE(ROUTES, CUP_FLASH cup_index *through;)
    cup_index keep;
    cup_index pump;
    CUP_WHERE(SETTINGS, cup_index settings;)
    CUP_WHERE(DOSES, cup_index dose_own;)
    CUP_WHERE(ALSOS, cup_index also_own;)
    CUP_WHERE(TURNS, cup_index turn_own;)
    CUP_WHERE(CLOCK, uint16_t from;)
    CUP_WHERE(CLOCK, uint16_t to;)
    CUP_WHERE(ROUTES, uint8_t through_count;)
    CUP_WHERE(LINES, bool line;)
};

struct cup_duty_state {
    struct cup_latch_state latch;
};

/* Looks with the marks of `latch` at a reading, `usable` or not: its value
 * stops, the `shown` (steady) one starts. `sampled` says that it is new in this
 * pass. Returns how many ms may pass before the duty wants to look again by
 * itself. */
uint32_t cup_duty_step(CUP_NUMBERS struct cup_latch *latch,
                       struct cup_latch_state *state, uint32_t now_ms,
                       bool usable, cup_mark value, cup_mark shown,
                       bool sampled);

/* Whether its marks ask for water (doses and turns aside). */
static inline bool cup_duty_asks(const struct cup_duty_state *state)
{
    return state->latch.on;
}

CUP_C_ENDS

#endif
