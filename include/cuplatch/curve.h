/* A curve turns one number into another along straight pieces: raw counts to
 * per cent, echo time to distance, depth to volume.
 *
 * The result is the exact rational value rounded half away from zero, for
 * every input; the slopes are worked out once, so that a look-up needs no
 * division. Inputs are 0 to 65535; what can be negative is offset first.
 *
 * In use:
 *
 *     const struct cup_point points[] = {{2910, 0}, {1180, 10000}};
 *     struct cup_knot knots[2];
 *     const struct cup_curve curve = {knots, 2, true};
 *     if (cup_curve_make(knots, points, 2, true) == CUP_OK)
 *         level = cup_curve_value(&curve, raw); */
#ifndef CUPLATCH_CURVE_H
#define CUPLATCH_CURVE_H

#include "base.h"

CUP_C_BEGINS

#define CUP_CURVE_POINTS 33

/* One pair a grower knows: at input x the value is y. */
struct cup_point {
    uint16_t x;
    int32_t y;
};

/* One piece, from its x to the next knot's. |dy| / width is kept as a whole
 * part and the rest of it in 1/2^32, where values are worked out often. */
struct cup_knot {
    cup_value y;
    CUP_WHERE(VALUES, uint32_t share;)
    uint16_t x;
    CUP_WHERE(VALUES, uint16_t whole;)
};

/* `count` knots, 2 to CUP_CURVE_POINTS; x rises. Inputs outside the knots
 * give the end values when `clamp`, else the end pieces are continued. */
struct cup_curve {
    CUP_FLASH struct cup_knot *knots;
    uint8_t count;
    bool clamp;
};

/* The most samples of a mean; a baked header may say that its site has
 * fewer. */
#ifndef CUP_MEAN_MOST
#define CUP_MEAN_MOST 31
#endif

/* A mean that was not divided yet: `sum` of `count` samples, 1 to
 * CUP_MEAN_MOST. */
struct cup_mean {
    cup_sum sum;
    uint8_t count;
};

/* A mean in sixtieths of a count, which is whole for as many as so many
 * samples; where CUP_USES_VALUES is 0. */
#define CUP_MEAN_PARTS 60
#define CUP_MEAN_EXACT 6

/* A slope for use without a curve: rise / width, with whole = rise / width
 * rounded down and share = the rest in 1/2^32, or a little less. */
struct cup_slope {
    uint32_t rise;
    uint32_t width;
    uint32_t whole;
    uint32_t share;
};

/* Fills `knots` from `points`, whose x may rise or fall but must keep its
 * direction. CUP_ERROR_ORDER: neighbouring inputs are equal or turn back.
 * CUP_ERROR_RANGE: fewer than 2 or more than CUP_CURVE_POINTS points, or so
 * steep that the arithmetic would not fit 32 bits: y within +-2^30, |dy| of a
 * piece at most 2^26, and unless clamped a slope times 65535 at most 2^26. */
CUP_MUST_USE enum cup_error cup_curve_make(struct cup_knot *knots,
                                           const struct cup_point *points,
                                           uint8_t count, bool clamp);

/* The value at the mean's input. Where CUP_USES_VALUES is 0 the count of
 * samples must divide CUP_MEAN_PARTS. */
cup_value cup_curve_at(CUP_FLASH struct cup_curve *curve, struct cup_mean mean);

/* The value at one input. */
cup_value cup_curve_value(CUP_FLASH struct cup_curve *curve, uint16_t x);

/* Where CUP_USES_VALUES: y + slope * (distance / count) when `rising`, else y -
 * that; rounded half away from zero. `distance` is at most 31 * 65535,
 * slope.whole * distance below 2^31, count * slope.width below 2^30. `share`
 * may be low by so much that the result before correction is at most two steps
 * short. */
int32_t cup_slope_from(const struct cup_slope *slope, int32_t y, bool rising,
                       uint32_t distance, uint8_t count);

/* value * times / per, rounded half up, saturating at UINT32_MAX; `per` is at
 * least 1. Divides bit by bit: for what is rare. */
uint32_t cup_scale(uint16_t value, uint32_t times, uint32_t per);

CUP_C_ENDS

#endif
