/* Travel: an output that takes its time. A vent or a motor valve moves between
 * shut and open at a stated rate; where it is, is reckoned from how long it
 * moved. At boot it is sent to where it is safe for a whole travel, so that it
 * is there for certain.
 *
 * In use:
 *
 *     const struct cup_travel vent = {.all_ms = 5000};
 *     struct cup_travel_state state;
 *     cup_travel_boot(&vent, &state, now_ms);
 *     uint16_t place_pct100 = cup_travel_place(&vent, &state, now_ms, is_on);
 */
#ifndef CUPLATCH_TRAVEL_H
#define CUPLATCH_TRAVEL_H

#include "base.h"

CUP_C_BEGINS

#define CUP_TRAVEL_OPEN 10000 /* hundredths of a per cent */

/*   all_ms       from shut to open
 *   safe_pct100  where it goes when it is off, at boot and on faults */
struct cup_travel {
    uint32_t all_ms;
    uint16_t safe_pct100;
};

struct cup_travel_state {
    uint32_t since_ms; /* when it last turned */
    uint16_t from_pct100;
    uint16_t is_moving;
};
CUP_ASSERT(sizeof(struct cup_travel_state) == 8, "state has no padding");

/* At boot it might be anywhere: it is taken to be at the far end from safe. */
void cup_travel_boot(CUP_FLASH struct cup_travel *travel,
                     struct cup_travel_state *state, uint32_t now_ms);

/* Where it is, on its way to open (`on`) or to safe; 0 to 10000. */
uint16_t cup_travel_place(CUP_FLASH struct cup_travel *travel,
                          const struct cup_travel_state *state, uint32_t now_ms,
                          bool on);

/* It turns, from going the other way than `on`. */
void cup_travel_reverse(CUP_FLASH struct cup_travel *travel,
                        struct cup_travel_state *state, uint32_t now_ms,
                        bool on);

/* Ends a way that is over. Returns ms until it has arrived, 0 when it has. */
uint32_t cup_travel_left(CUP_FLASH struct cup_travel *travel,
                         struct cup_travel_state *state, uint32_t now_ms,
                         bool on);

CUP_C_ENDS

#endif
