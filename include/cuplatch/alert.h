/* Alerts: a value past a mark for a time is said once, again at intervals
 * while it lasts, and once when it is over.
 *
 * In use:
 *
 *     const struct cup_alert low = {.latch = {.start = 2400, .stop = 2800}};
 *     struct cup_alert_state state = {0};
 *     if (cup_alert_step(&low, &state, now_ms, level, true) == CUP_ALERT_SAY)
 *         sound_the_horn(); */
#ifndef CUPLATCH_ALERT_H
#define CUPLATCH_ALERT_H

#include "latch.h"

CUP_C_BEGINS

/*   latch      start: its mark; stop: where it clears; confirm: for so long
 *   repeat_ms  0: said once
 *   about      the thing whose value it is
 *   say        what the grower wants to read; null: nothing */
struct cup_alert {
    struct cup_latch latch;
    uint32_t repeat_ms;
    CUP_FLASH char *say;
    cup_index about;
};

struct cup_alert_state {
    struct cup_latch_state latch;
    uint32_t told_ms;
};
CUP_ASSERT(sizeof(struct cup_alert_state) == 12, "state has no padding");

/* What a step came to. */
enum cup_alert_says { CUP_ALERT_NOTHING, CUP_ALERT_SAY, CUP_ALERT_OVER };

/* Steps an alert by a value that is known. */
enum cup_alert_says cup_alert_step(CUP_FLASH struct cup_alert *alert,
                                   struct cup_alert_state *state,
                                   uint32_t now_ms, cup_mark value,
                                   bool sampled);

/* ms until it wants to be looked at by itself. */
uint32_t cup_alert_left(CUP_FLASH struct cup_alert *alert,
                        const struct cup_alert_state *state, uint32_t now_ms);

CUP_C_ENDS

#endif
