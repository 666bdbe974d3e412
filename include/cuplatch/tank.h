/* A tank turns a sensor's reading into how full it is.
 *
 * From a distance: depth = top - distance, where top is the sensor face's
 * height above the floor (depth of the tank plus the gap above its full mark).
 * A tank's per cent is per cent of volume, whatever its shape. */
#ifndef CUPLATCH_TANK_H
#define CUPLATCH_TANK_H

#include "curve.h"
#include "sensor.h"

/*   fill      depth in mm10 to hundredths of a per cent of volume, clamped
 *   volume    depth in mm10 to ml, clamped; null when nobody asks
 *   top_mm10  from the floor to the sensor's face
 *   sensor    its sensor in the plan */
struct cup_tank {
    CUP_FLASH struct cup_curve *fill;
    CUP_FLASH struct cup_curve *volume;
    int32_t top_mm10;
    cup_index sensor;
};

/* A full tank, in hundredths of a per cent of its volume. */
#define CUP_TANK_FULL 10000

/* Depth of the liquid, 0 to 65535 mm10, at a distance from the sensor. */
uint16_t cup_tank_depth_mm10(CUP_FLASH struct cup_tank *tank,
                             int32_t distance_mm10);

/* How full it is at a distance from the sensor, in hundredths of a per cent of
 * its volume. */
int32_t cup_tank_fill_pct100(CUP_FLASH struct cup_tank *tank,
                             int32_t distance_mm10);

#endif
