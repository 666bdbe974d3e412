/* Makes a curve's knots from the pairs a grower knows. Done once, when a plan
 * is made, so it may divide; firmware with baked tables leaves it out. */
#include "cuplatch/curve.h"

#define STEEPEST (UINT32_C(1) << 26)
#define HIGHEST (INT32_C(1) << 30)

/* Points are read from the end that makes x rise. */
static const struct cup_point *nth(const struct cup_point *points,
                                   uint8_t count, uint8_t i)
{
    bool rising = points[0].x < points[count - 1].x;
    return rising ? &points[i] : &points[count - 1 - i];
}

static enum cup_error make_piece(struct cup_knot *knot,
                                 const struct cup_point *to, bool clamp)
{
    if (to->x <= knot->x)
        return CUP_ERROR_ORDER;
    uint32_t rise = cup_gap(to->y, knot->y);
    uint32_t width = (uint32_t)to->x - knot->x;
    uint32_t whole = rise / width;
    if (rise > STEEPEST || whole > UINT16_MAX)
        return CUP_ERROR_RANGE;
    if (!clamp && (whole + 1) * UINT64_C(65535) > STEEPEST)
        return CUP_ERROR_RANGE;
    CUP_WHERE(VALUES, knot->whole = (uint16_t)whole;)
    CUP_WHERE(VALUES, knot->share =
                          (uint32_t)(((uint64_t)(rise % width) << 32) / width);)
    return CUP_OK;
}

enum cup_error cup_curve_make(struct cup_knot *knots,
                              const struct cup_point *points, uint8_t count,
                              bool clamp)
{
    if (count < 2 || count > CUP_CURVE_POINTS)
        return CUP_ERROR_RANGE;
    for (uint8_t i = 0; i < count; i++) {
        const struct cup_point *point = nth(points, count, i);
        if (point->y > HIGHEST || point->y < -HIGHEST)
            return CUP_ERROR_RANGE;
        knots[i] = (struct cup_knot){.x = point->x, .y = (cup_value)point->y};
        if (i == 0)
            continue;
        enum cup_error error = make_piece(&knots[i - 1], point, clamp);
        if (error)
            return error;
    }
    return CUP_OK;
}
