/* The checks that only some sensors have, for sensor.c. */
#ifndef CUPLATCH_MEASURE_CHECKS_H
#define CUPLATCH_MEASURE_CHECKS_H

#include "cuplatch/sensor.h"

/* Of a sample that is too near, again and again, to a tank that may be full:
 * a good reading, though no distance. */
#define CUP_CHECKS_FULL UINT8_MAX

/* Judges a stored raw value. Pulses and switches change it: to a difference,
 * to what is not bouncing. `lost`: what it remembers is too old. */
uint8_t cup_checks_judge(const struct cup_sensor_use *use, uint32_t now_ms,
                         bool lost, uint16_t *stored);

/* Moves what is shown, after a sample was accepted. */
void cup_checks_steady(const struct cup_sensor_use *use, uint32_t now_ms);

#endif
