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

struct cup_reading cup_tank_reading(CUP_FLASH struct cup_tank *tank,
                                    struct cup_reading distance)
{
    struct cup_reading level = distance;
    level.unit = CUP_UNIT_PERCENT;
    if (distance.known)
        level.value = cup_curve_value(
            tank->fill, cup_tank_depth_mm10(tank, distance.value));
    return level;
}
