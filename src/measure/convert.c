/* From smoothed raw counts to a value in the sensor's unit. */
#include "cuplatch/echo.h"
#include "cuplatch/sensor.h"

int32_t cup_sensor_convert(const struct cup_sensor_use *use,
                           struct cup_mean mean)
{
    if (use->sensor->air != CUP_NONE)
        return cup_echo_mm10(mean, use->air_cdeg);
    return cup_curve_at(use->sensor->curve, mean);
}
