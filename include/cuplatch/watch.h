/* Watches: what the site notices about itself. None stops anything; each is
 * an alert with its numbers, told once, and over when it no longer holds.
 *
 *   LEAK    a tank falls though nothing that moves it runs
 *   STILL   a pump is off, yet what proves its flow goes on: its relay may
 *           have stuck
 *   VOLUME  a pump gave more in one run than its tank held when it began
 *
 * After anything ran, one window is left for the water to come to rest.
 *
 * In use:
 *
 *     const struct cup_watch leak = {.change = 80, .within_ms = 3600000};
 *     struct cup_watch_state state = {0};
 *     if (cup_watch_step(&leak, &state, now_ms, is_on, level, &shown))
 *         tell_of_it(shown); */
#ifndef CUPLATCH_WATCH_H
#define CUPLATCH_WATCH_H

#include "reason.h"

CUP_C_BEGINS

enum cup_watch_kind { CUP_WATCH_LEAK, CUP_WATCH_STILL, CUP_WATCH_VOLUME };

/* How LEAK and STILL judge a window: a rise or a fall by so much, or a value
 * at its end. */
enum cup_watch_way { CUP_WATCH_FALLS, CUP_WATCH_RISES, CUP_WATCH_ABOVE };

/*   change     mm10 of depth, or the sensor's unit; VOLUME: ml a minute
 *   within_ms  a window
 *   about      the tank or sensor that tells, as a thing
 *   pump       whose watch it is; CUP_NONE for a tank's */
struct cup_watch {
    int32_t change;
    uint32_t within_ms;
    cup_index about;
    cup_index pump;
    uint8_t kind;
    uint8_t way;
};

enum {
    CUP_WATCH_CALM = 1, /* the window after a disturbance is over */
    CUP_WATCH_TOLD = 2,
    CUP_WATCH_BEGUN = 4,
    CUP_WATCH_ONCE = 8 /* times this: bad windows in a row */
};

/* What proves a flow is chosen to be quick, so that noise may pass for one
 * window; a relay that sticks goes on. */
#define CUP_WATCH_STILL_WINDOWS 3

struct cup_watch_state {
    int32_t base; /* value when the window began; VOLUME: ml in the tank */
    uint32_t from_ms;
    uint32_t flags;
};
CUP_ASSERT(sizeof(struct cup_watch_state) == 12, "state has no padding");

/* What a step came to. */
enum cup_watch_says { CUP_WATCH_NOTHING, CUP_WATCH_ALERT, CUP_WATCH_OVER };

/* Steps a LEAK or STILL. `disturbed`: something that may run does, or the
 * value can't be used. Fills `shown` with the change of the window when it
 * says something. */
enum cup_watch_says cup_watch_step(CUP_FLASH struct cup_watch *watch,
                                   struct cup_watch_state *state,
                                   uint32_t now_ms, bool disturbed,
                                   int32_t value, int32_t *shown);

/* Steps a VOLUME: `run_ms` of the run under way, 0 when off; `held_ml` what
 * the tank holds now. */
enum cup_watch_says cup_watch_volume(CUP_FLASH struct cup_watch *watch,
                                     struct cup_watch_state *state, bool on,
                                     uint32_t run_ms, int32_t held_ml,
                                     int32_t *shown);

/* ms of a run for which a VOLUME can't say anything, unless the tank is found
 * fuller: as long again as it took to give half of it, or 0. */
uint32_t cup_watch_volume_left(CUP_FLASH struct cup_watch *watch,
                               const struct cup_watch_state *state,
                               uint32_t run_ms);

/* ms until a window is over. */
uint32_t cup_watch_left(CUP_FLASH struct cup_watch *watch,
                        const struct cup_watch_state *state, uint32_t now_ms);

CUP_C_ENDS

#endif
