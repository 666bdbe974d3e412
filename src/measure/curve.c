/* Looks a value up on a curve: exactly, and without dividing.
 *
 * With d = input - knot.x summed over `count` samples, the exact result is
 * y +- d * |dy| / (count * width). The estimate below is a floor that may be
 * up to two short; the remainder, taken modulo 2^32, tells how short. */
#include "cuplatch/curve.h"

#if CUP_USES_VALUES
/* Exact value is low + rest / parts with 0 <= rest <= parts < 2^30. */
static inline int32_t round_half_away(int32_t low, uint32_t rest,
                                      uint32_t parts)
{
    return 2 * rest >= parts + (low < 0) ? low + 1 : low;
}

/* y +- steps and rest / parts; `rest` may be a few parts too many. */
static int32_t step_from(int32_t y, bool rising, uint32_t steps, uint32_t rest,
                         uint32_t parts)
{
    while (rest >= parts) {
        steps++;
        rest -= parts;
    }
    int32_t low = y + (int32_t)steps;
    if (!rising) {
        low = y - (int32_t)steps - 1;
        rest = parts - rest;
    }
    return round_half_away(low, rest, parts);
}

/* floor(2^32 / n): dividing by a small count is a multiplication. */
#if CUP_MEAN_MOST > 5
#define MORE_INVERSE                                                           \
    , 715827882, 613566756, 536870912, 477218588, 429496729, 390451572,        \
        357913941, 330382099, 306783378, 286331153, 268435456, 252645135,      \
        238609294, 226050910, 214748364, 204522252, 195225786, 186737708,      \
        178956970, 171798691, 165191049, 159072862, 153391689, 148102320,      \
        143165576, 138547332
#else
#define MORE_INVERSE
#endif
static CUP_FLASH uint32_t inverse[] = {
    0, 0, 2147483648, 1431655765, 1073741824, 858993459 MORE_INVERSE};

/* a * b / 2^32, rounded down. */
static inline uint32_t high_word(uint32_t a, uint32_t b)
{
    return (uint32_t)(((uint64_t)a * b) >> 32);
}

/* How many steps a slope makes over so many samples' distance; at most two
 * short. */
static inline uint32_t estimate(uint32_t distance, uint32_t share,
                                uint32_t whole, uint8_t count)
{
    uint32_t steps = whole * distance + high_word(distance, share);
    CUP_INVARIANT(count >= 1 && count <= CUP_MEAN_MOST);
    if (count > 1)
        /* cppcheck-suppress arrayIndexOutOfBoundsCond */
        steps = high_word(steps, inverse[count]);
    return steps;
}

int32_t cup_slope_from(const struct cup_slope *slope, int32_t y, bool rising,
                       uint32_t distance, uint8_t count)
{
    uint32_t parts = slope->width * count;
    uint32_t steps = estimate(distance, slope->share, slope->whole, count);
    return step_from(y, rising, steps, distance * slope->rise - steps * parts,
                     parts);
}

static int32_t go_along(CUP_FLASH struct cup_knot *from, bool onward,
                        uint32_t distance, uint32_t parts, uint8_t count)
{
    int32_t y = from->y;
    int32_t end = from[1].y;
    uint32_t steps = estimate(distance, from->share, from->whole, count);
    uint32_t rest = distance * cup_gap(end, y) - steps * parts;
    return step_from(y, (end >= y) == onward, steps, rest, parts);
}

/* The last knot at or below the input, but never the very last of all. */
static unsigned piece_of(CUP_FLASH struct cup_curve *curve, uint32_t sum,
                         uint8_t count)
{
    unsigned low = 0;
    unsigned high = curve->count - 1u;
    /*@ loop invariant 0 <= low < high <= curve->count - 1;
        loop invariant low > 0 ==> curve->knots[low].x * count <= sum;
        loop invariant high < curve->count - 1 ==>
            curve->knots[high].x * count > sum;
        loop assigns low, high;
        loop variant high - low; */
    while (high - low > 1) {
        unsigned middle = (low + high) / 2;
        if ((uint32_t)curve->knots[middle].x * count <= sum)
            low = middle;
        else
            high = middle;
    }
    return low;
}

static cup_value look_up(CUP_FLASH struct cup_curve *curve, uint32_t sum,
                         uint8_t count)
{
    CUP_FLASH struct cup_knot *from =
        &curve->knots[piece_of(curve, sum, count)];
    uint32_t start = (uint32_t)from->x * count;
    uint32_t parts = (uint32_t)(uint16_t)(from[1].x - from->x) * count;
    bool below = sum < start;
    uint32_t distance = below ? start - sum : sum - start;
    if (curve->clamp && below)
        return from->y;
    if (curve->clamp && distance >= parts)
        return from[1].y;
    return (cup_value)go_along(from, !below, distance, parts, count);
}

cup_value cup_curve_at(CUP_FLASH struct cup_curve *curve, struct cup_mean mean)
{
    return look_up(curve, mean.sum, mean.count);
}

cup_value cup_curve_value(CUP_FLASH struct cup_curve *curve, uint16_t x)
{
    return look_up(curve, x, 1);
}

#else
/* How far two values of a curve are apart. */
#if CUP_NARROW
typedef uint16_t gap;
#else
typedef uint32_t gap;
#endif

/* Where values are seldom worked out: divided bit by bit, in few bytes. */
static cup_value go_along(CUP_FLASH struct cup_knot *from, bool onward,
                          cup_sum distance, cup_sum parts)
{
    cup_value y = from->y;
    bool rising = from[1].y >= y;
    gap rise = (gap)(rising ? from[1].y - y : y - from[1].y);
    gap steps = 0;
    cup_sum rest = 0;
    for (uint8_t bits = 8 * sizeof(rise); bits > 0; bits--) {
        steps = (gap)(steps * 2);
        rest *= 2;
        if (rise >> (8 * sizeof(rise) - 1))
            rest += distance;
        rise = (gap)(rise << 1);
        while (rest >= parts) {
            rest -= parts;
            steps++;
        }
    }
    cup_value low = (cup_value)(y + (cup_value)steps);
    if (rising != onward) {
        low = (cup_value)(y - (cup_value)steps - 1);
        rest = parts - rest;
    }
    return (cup_value)(rest * 2 >= parts + (low < 0) ? low + 1 : low);
}

static cup_value look_up(CUP_FLASH struct cup_curve *curve, cup_sum x)
{
    CUP_FLASH struct cup_knot *from = curve->knots + curve->count - 2;
    while (from > curve->knots && (cup_sum)from->x * CUP_MEAN_PARTS > x)
        from--;
    cup_sum start = (cup_sum)from->x * CUP_MEAN_PARTS;
    cup_sum parts = (cup_sum)from[1].x * CUP_MEAN_PARTS - start;
    bool below = x < start;
    cup_sum distance = below ? start - x : x - start;
    if (curve->clamp && below)
        return from->y;
    if (curve->clamp && distance >= parts)
        return from[1].y;
    return go_along(from, !below, distance, parts);
}

cup_value cup_curve_at(CUP_FLASH struct cup_curve *curve, struct cup_mean mean)
{
    return look_up(curve, mean.sum * (CUP_MEAN_PARTS / mean.count));
}

cup_value cup_curve_value(CUP_FLASH struct cup_curve *curve, uint16_t x)
{
    return look_up(curve, (cup_sum)x * CUP_MEAN_PARTS);
}
#endif

uint32_t cup_scale(uint16_t value, uint32_t times, uint32_t per)
{
    uint64_t all = (uint64_t)value * times + per / 2;
    uint32_t rest = (uint32_t)(all >> 32);
    uint32_t low = (uint32_t)all;
    uint32_t result = 0;
    if (rest >= per)
        return UINT32_MAX;
    for (int bit = 0; bit < 32; bit++) {
        bool carry = rest >> 31;
        rest = rest << 1 | low >> 31;
        low <<= 1;
        result <<= 1;
        if (carry || rest >= per) {
            rest -= per;
            result |= 1;
        }
    }
    return result;
}
