/* What stored raw values mean, in the unit of their sensor. */
#include "value.h"
#include "cuplatch/echo.h"
#include "cuplatch/sensor.h"

#if CUP_USES_VALUES
cup_value cup_sensor_value(CUP_FLASH struct cup_sensor *sensor,
                           const struct cup_sensor_state *state)
{
    (void)sensor;
    return state->reading.value;
}
#else
cup_value cup_sensor_value(CUP_FLASH struct cup_sensor *sensor,
                           const struct cup_sensor_state *state)
{
    return cup_curve_at(
        sensor->curve,
        (struct cup_mean){(cup_sum)CUP_COUNTS(state->reading.value),
                          CUP_MEAN_PARTS});
}
#endif

cup_value cup_value_of_mean(const struct cup_sensor_use *use,
                            struct cup_mean mean)
{
    if (CUP_IF(AIR, use->sensor->air != CUP_NONE))
        return cup_echo_mm10(mean, CUP_IF(AIR, use->air_cdeg),
                             CUP_IF(AIR, use->sensor->lean));
    return cup_curve_at(use->sensor->curve, mean);
}

cup_value cup_sensor_convert(const struct cup_sensor_use *use, uint16_t stored)
{
    return cup_value_of_mean(use, (struct cup_mean){stored, 1});
}
