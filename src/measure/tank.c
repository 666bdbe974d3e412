/* How full a tank is, from what its sensor says. */
#include "cuplatch/tank.h"

#if CUP_USES_PRESSURES
/* The most a slope takes: over 20 bar. */
#define VALUE_MOST ((UINT32_C(1) << 21) - 1)

static uint16_t held_to_steps(int32_t steps)
{
    if (steps < 0)
        return 0;
    return steps > UINT16_MAX ? UINT16_MAX : (uint16_t)steps;
}

/* From pressure or level: what stands above the sensor, and its height. */
static uint16_t depth_above(CUP_FLASH struct cup_tank *tank, cup_value value)
{
    uint32_t above = value < 0 ? 0 : (uint32_t)value;
    struct cup_slope rise = tank->rise;
    if (above > VALUE_MOST)
        above = VALUE_MOST;
    return held_to_steps(cup_slope_from(&rise, tank->top, true, above, 1));
}

#endif

CUP_APART uint16_t cup_tank_depth(CUP_FLASH struct cup_tank *tank,
                                  cup_value value)
{
    if (CUP_IF(PRESSURES, tank->form != CUP_TANK_DISTANCE))
        return CUP_IF(PRESSURES, depth_above(tank, value));
    cup_value top = tank->top;
    if (value >= top)
        return 0;
    return CUP_IF_ELSE(
        WIDE, (uint16_t)cup_least((uint32_t)top - (uint32_t)value, UINT16_MAX),
        (uint16_t)(top - value));
}

cup_value cup_tank_fill_pct100(CUP_FLASH struct cup_tank *tank, cup_value value)
{
    return cup_curve_value(tank->fill, cup_tank_depth(tank, value));
}

#if CUP_USES_VOLUMES
int32_t cup_tank_volume_ml(CUP_FLASH struct cup_tank *tank, cup_value value)
{
    if (!tank->volume)
        return 0;
    return cup_curve_value(tank->volume, cup_tank_depth(tank, value));
}

int32_t cup_tank_ullage_ml(CUP_FLASH struct cup_tank *tank, cup_value value)
{
    if (!tank->volume)
        return 0;
    return tank->volume->knots[tank->volume->count - 1].y -
           cup_tank_volume_ml(tank, value);
}
#endif
