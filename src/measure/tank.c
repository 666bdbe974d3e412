/* How full a tank is, from how far its surface is away. */
#include "cuplatch/tank.h"

uint16_t cup_tank_depth_mm10(CUP_FLASH struct cup_tank *tank,
                             int32_t distance_mm10)
{
    if (distance_mm10 >= tank->top_mm10)
        return 0;
    uint32_t depth = (uint32_t)tank->top_mm10 - (uint32_t)distance_mm10;
    return depth > UINT16_MAX ? UINT16_MAX : (uint16_t)depth;
}

int32_t cup_tank_fill_pct100(CUP_FLASH struct cup_tank *tank,
                             int32_t distance_mm10)
{
    return cup_curve_value(tank->fill,
                           cup_tank_depth_mm10(tank, distance_mm10));
}
