/* A tank turns a sensor's reading into how full it is.
 *
 * The depth of the liquid comes from one of
 *   distance  top - distance, top the height of the sensor's face above the
 *             floor (the tank's depth plus the gap above its full mark)
 *   pressure  pressure / (density * 9.80665 m/s2) above the sensor, and the
 *             sensor's own height above the floor
 *   level     per cent of the depth
 * and a curve of depth gives per cent of volume, whatever the shape. Or one or
 * two float switches tell it: it is as full as the highest float that the
 * liquid has lifted; empty when it has lifted none.
 *
 * In use:
 *
 *     const struct cup_tank bin = {
 *         .fill = &curve, .top = 17800, .step_mm10 = 1};
 *     cup_value full_pct100 = cup_tank_fill_pct100(&bin, distance_mm10); */
#ifndef CUPLATCH_TANK_H
#define CUPLATCH_TANK_H

#include "curve.h"
#include "sensor.h"
#include "span.h"

CUP_C_BEGINS

enum cup_tank_form {
    CUP_TANK_DISTANCE,
    CUP_TANK_PRESSURE,
    CUP_TANK_LEVEL,
    CUP_TANK_FLOATS
};

/* A full tank, in hundredths of a per cent of its volume. */
#define CUP_TANK_FULL 10000

/*   fill       depth in steps to hundredths of a per cent of volume, clamped
 *   volume     depth in steps to ml, clamped; null when nobody asks
 *   rise       steps of depth for a step of the sensor's value, but for a
 *              distance, whose steps are its own
 *   top        a distance's 0; else the sensor's height; in steps
 *   step_mm10  what a step of depth is: 1, or 10 for tanks over 6.5 m
 *   low_pct100, high_pct100  where its floats are
 *   span       how its level may leap; null: it goes by its number. span_own is
 *              the number of its state
 *   sensor     its sensor in the plan; of floats the lower one, and high the
 *              upper one, CUP_NONE when there is one only
 *   form       an enum cup_tank_form */
struct cup_tank {
    CUP_FLASH struct cup_curve *fill;
    CUP_WHERE(VOLUMES, CUP_FLASH struct cup_curve *volume;)
    CUP_WHERE(PRESSURES, struct cup_slope rise;)
    CUP_WHERE(SPANS, CUP_FLASH struct cup_span *span;)
    cup_value top;
    CUP_WHERE(FLOATS, uint16_t low_pct100;)
    CUP_WHERE(FLOATS, uint16_t high_pct100;)
    cup_index sensor;
    CUP_WHERE(FLOATS, cup_index high;)
    CUP_WHERE(SPANS, cup_index span_own;)
    uint8_t form;
    uint8_t step_mm10;
};

/* Depth of the liquid in steps, 0 to 65535, for a value of the sensor: mm10,
 * Pa, or hundredths of a per cent. */
uint16_t cup_tank_depth(CUP_FLASH struct cup_tank *tank, cup_value value);

/* How full it is, in hundredths of a per cent of its volume. */
cup_value cup_tank_fill_pct100(CUP_FLASH struct cup_tank *tank,
                               cup_value value);

/* What is in it, and what has room yet (ullage), in ml. 0 without a volume
 * curve. */
int32_t cup_tank_volume_ml(CUP_FLASH struct cup_tank *tank, cup_value value);
int32_t cup_tank_ullage_ml(CUP_FLASH struct cup_tank *tank, cup_value value);

CUP_C_ENDS

#endif
