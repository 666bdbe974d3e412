/* Looks a value up on a curve: exactly, and without dividing.
 *
 * With d = input - knot.x summed over `count` samples, the exact result is
 * y +- d * |dy| / (count * width). The estimate below is a floor that may be
 * up to two short; the remainder, taken modulo 2^32, tells how short. */
#include "cuplatch/curve.h"

/* floor(2^32 / n): dividing by a small count is a multiplication. */
static CUP_FLASH uint32_t inverse[] = {
    0,         0,         2147483648, 1431655765, 1073741824, 858993459,
#if CUP_MEAN_MOST > 5
    715827882, 613566756, 536870912,  477218588,  429496729,  390451572,
    357913941, 330382099, 306783378,  286331153,  268435456,  252645135,
    238609294, 226050910, 214748364,  204522252,  195225786,  186737708,
    178956970, 171798691, 165191049,  159072862,  153391689,  148102320,
    143165576, 138547332
#endif
};

/* a * b / 2^32, rounded down. */
static inline uint32_t high_word(uint32_t a, uint32_t b)
{
#ifdef __AVR__
    union { /* which knows no shift by so many but a loop */
        uint64_t all;
        uint32_t words[2];
    } product = {.all = (uint64_t)a * b};
    return product.words[1];
#else
    return (uint32_t)(((uint64_t)a * b) >> 32);
#endif
}

/* Exact value is low + rest / parts with 0 <= rest <= parts. */
static int32_t round_half_away(int32_t low, uint32_t rest, uint32_t parts)
{
    uint32_t missing = parts - rest;
    bool up = rest > missing || (rest == missing && low >= 0);
    return up ? low + 1 : low;
}

/* A slope over so many samples: `parts` is its width times their count. */
struct stretch {
    uint32_t rise;
    uint32_t whole;
    uint32_t share;
    uint32_t parts;
    uint32_t distance;
    uint8_t count;
};

static inline int32_t along(const struct stretch *at, int32_t y, bool rising)
{
    uint32_t steps =
        at->whole * at->distance + high_word(at->distance, at->share);
    CUP_INVARIANT(at->count >= 1 && at->count <= CUP_MEAN_MOST);
    if (at->count > 1)
        /* cppcheck-suppress arrayIndexOutOfBoundsCond */
        steps = high_word(steps, inverse[at->count]);
    uint32_t rest = at->distance * at->rise - steps * at->parts;
    while (rest >= at->parts) {
        steps++;
        rest -= at->parts;
    }
    int32_t low = y + (int32_t)steps;
    if (!rising) {
        low = y - (int32_t)steps - 1;
        rest = at->parts - rest;
    }
    return round_half_away(low, rest, at->parts);
}

int32_t cup_slope_from(const struct cup_slope *slope, int32_t y, bool rising,
                       uint32_t distance, uint8_t count)
{
    struct stretch at = {slope->rise,          slope->whole, slope->share,
                         slope->width * count, distance,     count};
    return along(&at, y, rising);
}

/* The last knot at or below the input, but never the very last of all. */
static unsigned piece_of(CUP_FLASH struct cup_curve *curve,
                         struct cup_mean mean)
{
    unsigned low = 0;
    unsigned high = curve->count - 1u;
    /*@ loop invariant 0 <= low < high <= curve->count - 1;
        loop invariant low > 0 ==>
            curve->knots[low].x * mean.count <= mean.sum;
        loop invariant high < curve->count - 1 ==>
            curve->knots[high].x * mean.count > mean.sum;
        loop assigns low, high;
        loop variant high - low; */
    while (high - low > 1) {
        unsigned middle = (low + high) / 2;
        if ((uint32_t)curve->knots[middle].x * mean.count <= mean.sum)
            low = middle;
        else
            high = middle;
    }
    return low;
}

cup_value cup_curve_at(CUP_FLASH struct cup_curve *curve, struct cup_mean mean)
{
    CUP_FLASH struct cup_knot *from = &curve->knots[piece_of(curve, mean)];
    CUP_FLASH struct cup_knot *to = from + 1;
    uint32_t start = (uint32_t)from->x * mean.count;
    bool below = mean.sum < start;
    bool rising = to->y >= from->y;
    struct stretch at = {
        .rise = rising ? (uint32_t)to->y - (uint32_t)from->y
                       : (uint32_t)from->y - (uint32_t)to->y,
        .whole = from->whole,
        .share = from->share,
        .parts = ((uint32_t)to->x - from->x) * mean.count,
        .distance = below ? start - mean.sum : mean.sum - start,
        .count = mean.count,
    };
    if (curve->clamp && below)
        return from->y;
    if (curve->clamp && at.distance >= at.parts)
        return to->y;
    return along(&at, from->y, rising != below);
}

cup_value cup_curve_value(CUP_FLASH struct cup_curve *curve, uint16_t x)
{
    return cup_curve_at(curve, (struct cup_mean){x, 1});
}

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
