/* A curve in exact rational arithmetic, in 128 bits. */
#ifndef CUPLATCH_TESTS_EXACT_H
#define CUPLATCH_TESTS_EXACT_H

#include "cuplatch/curve.h"

__extension__ typedef __int128 wide;

/* y + rise * (x_sum - count * x) / (count * width), half away from zero. */
static inline int32_t exact(const struct cup_point *from,
                            const struct cup_point *to, struct cup_mean mean)
{
    wide width = (wide)mean.count * (to->x - from->x);
    wide top = (wide)from->y * width +
               (wide)(to->y - from->y) *
                   ((int64_t)mean.sum - (int64_t)mean.count * from->x);
    if (width == 0)
        return from->y;
    if (width < 0) {
        width = -width;
        top = -top;
    }
    wide half = top < 0 ? -width : width;
    return (int32_t)((2 * top + half) / (2 * width));
}

#endif
