/* What a mean of stored raw values means, for sensor.c. */
#ifndef CUPLATCH_MEASURE_VALUE_H
#define CUPLATCH_MEASURE_VALUE_H

#include "cuplatch/sensor.h"

cup_value cup_value_of_mean(const struct cup_sensor_use *use,
                            struct cup_mean mean);

#endif
