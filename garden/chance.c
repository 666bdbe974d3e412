/* Chances from a seed, the same everywhere. */
#include "inside.h"

static uint64_t mix(uint64_t z)
{
    z = (z ^ (z >> 30)) * UINT64_C(0xBF58476D1CE4E5B9);
    z = (z ^ (z >> 27)) * UINT64_C(0x94D049BB133111EB);
    return z ^ (z >> 31);
}

double garden_chance(uint64_t *chance)
{
    *chance += UINT64_C(0x9E3779B97F4A7C15);
    return (double)(mix(*chance) >> 11) / 9007199254740992.0;
}

/* The sum of four even chances is near enough to a normal one, and has no tail
 * that a sensor would not have: variance 4/12. The four are parts of one
 * number. */
double garden_normal(uint64_t *chance)
{
    *chance += UINT64_C(0x9E3779B97F4A7C15);
    uint64_t bits = mix(*chance);
    uint64_t sum = (bits & 0xFFFF) + (bits >> 16 & 0xFFFF) +
                   (bits >> 32 & 0xFFFF) + (bits >> 48);
    return ((double)sum / 65536 - 2) * 1.7320508075688772;
}
