/* `echo`: the round trip of a sound, into the distance to what sent it back.
 *
 * Speed of sound in air: 331.3 + 0.606 T m/s, T in degrees Celsius, the usual
 * straight line. Against 331.3 sqrt(1 + T / 273.15), the law for dry air, it is
 * within 0.1 % from -10 to 25 C and within 0.25 % to 40 C; damp air is faster
 * and lies between.
 *
 * In use:
 *
 *     struct cup_mean trip_us = {.sum = 5210, .count = 1};
 *     int32_t distance_mm10 = cup_echo_mm10(trip_us, CUP_ECHO_AIR_CDEG, 0);
 */
#ifndef CUPLATCH_ECHO_H
#define CUPLATCH_ECHO_H

#include "curve.h"

CUP_C_BEGINS

/* Where no thermometer corrects it. */
#define CUP_ECHO_AIR_CDEG 2000

/* Distance in mm10 of a mean round trip in us, exact and rounded half away
 * from zero, in air of -50 to 80 C (taken as such beyond); less `lean`
 * 65536ths of it, up to a third, where the beam is not straight down. */
int32_t cup_echo_mm10(struct cup_mean round_trip_us, int32_t air_cdeg,
                      uint16_t lean);

CUP_C_ENDS

#endif
