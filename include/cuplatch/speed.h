/* Speed: how far an output is driven, by the level that it keeps. A pump of
 * variable speed or a proportional valve works gently near its mark and fully
 * far from it.
 *
 * In use:
 *
 *     const struct cup_speed_point points[] = {{3400, 4000}, {2000, 10000}};
 *     const struct cup_speed speed = {.points = points, .count = 2};
 *     uint16_t place_pct100 = cup_speed_place(&speed, 2700);
 *     is_on = place_pct100 > 0; */
#ifndef CUPLATCH_SPEED_H
#define CUPLATCH_SPEED_H

#include "base.h"

CUP_C_BEGINS

/* The most points of one. */
#define CUP_SPEED_POINTS 8

/* At this value, in the unit of what is kept, so far: hundredths of a per
 * cent. */
struct cup_speed_point {
    cup_value at;
    uint16_t place_pct100;
};

/* `count` points, 2 to CUP_SPEED_POINTS, the gentlest first: their values rise
 * or fall throughout. */
struct cup_speed {
    CUP_FLASH struct cup_speed_point *points;
    uint8_t count;
};

/* Where an output that runs is to be at a value: on the straight line between
 * two points, rounded down; at the first or the last point beyond them. */
uint16_t cup_speed_place(CUP_FLASH struct cup_speed *speed, cup_value value);

CUP_C_ENDS

#endif
