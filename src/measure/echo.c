/* Distance of an echo. mm10 = us * (331.3 + 0.00606 cdeg) * 0.005, that is
 * us * (16565000 + 303 cdeg) / 10^7: a slope of one whole and a rest. */
#include "cuplatch/echo.h"

#if CUP_USES_AIR

#define WIDTH UINT32_C(10000000)
#define AT_ZERO 16565000
#define PER_CDEG 303
#define COLDEST (-5000)
#define HOTTEST 8000

/* floor(rest * 2^32 / 10^7), or one less: 2^32 / 10^7 is 429 and
 * 2133437386 / 2^32 and a little. */
static uint32_t share_of(uint32_t rest)
{
    return rest * 429 +
           (uint32_t)(((uint64_t)rest * UINT32_C(2133437386)) >> 32);
}

int32_t cup_echo_mm10(struct cup_mean round_trip_us, int32_t air_cdeg,
                      uint16_t lean)
{
    if (air_cdeg < COLDEST)
        air_cdeg = COLDEST;
    if (air_cdeg > HOTTEST)
        air_cdeg = HOTTEST;
    uint32_t rise = (uint32_t)(AT_ZERO + PER_CDEG * air_cdeg);
    rise -= (uint32_t)(((uint64_t)rise * lean) >> 16);
    if (rise < WIDTH) /* leaning more than any site may */
        rise = WIDTH;
    struct cup_slope slope = {rise, WIDTH, 1, share_of(rise - WIDTH)};
    return cup_slope_from(&slope, 0, true, round_trip_us.sum,
                          round_trip_us.count);
}

#endif
