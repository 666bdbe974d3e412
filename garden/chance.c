/* Chances from a seed, the same everywhere. */
#include <math.h>

#include "inside.h"

static uint64_t mix(uint64_t z)
{
    z = (z ^ (z >> 30)) * UINT64_C(0xBF58476D1CE4E5B9);
    z = (z ^ (z >> 27)) * UINT64_C(0x94D049BB133111EB);
    return z ^ (z >> 31);
}

double garden_chance(struct garden *garden)
{
    garden->chance += UINT64_C(0x9E3779B97F4A7C15);
    return (double)(mix(garden->chance) >> 11) / 9007199254740992.0;
}

/* The sum of four even chances is near enough to a normal one, and has no tail
 * that a sensor would not have: variance 4/12. */
double garden_normal(struct garden *garden)
{
    double sum = -2;
    for (int i = 0; i < 4; i++)
        sum += garden_chance(garden);
    return sum * sqrt(3);
}
