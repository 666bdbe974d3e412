/* Raw values made from the truth, with what cheap sensors do to it. */
#include <math.h>

#include "inside.h"

/* A ranger sees the surface from its face above the full mark, farther along a
 * beam that leans. */
static double distance_mm(const struct garden *garden,
                          const struct sensor *sensor)
{
    const struct vessel *vessel = &garden->vessels[sensor->of];
    return (vessel->depth + sensor->gap_mm - vessel_depth(vessel)) /
           sensor->upright;
}

static double ripple(const struct garden *garden, struct sensor *sensor)
{
    return garden->vessels[sensor->of].ripple_mm *
           garden_normal(&sensor->chance);
}

/* There and back, in us, through air of that warmth. */
static double echo_us(const struct garden *garden, struct sensor *sensor)
{
    double mm = distance_mm(garden, sensor) + ripple(garden, sensor);
    double speed = 331.3 + 0.606 * garden->weather.air; /* m/s */
    if (garden_chance(&sensor->chance) <
        sensor->spikes) /* an echo of the wall */
        mm *= 0.3 + 0.5 * garden_chance(&sensor->chance);
    return 2000 * mm / speed;
}

/* What a mm of water weighs, in Pa: 1000 kg/m3 at 9.80665 m/s2. */
#define PA_MM 9.80665

/* What the sensor measures, as a share of its full scale. */
static double share_of(const struct garden *garden, const struct sensor *sensor)
{
    switch (sensor->kind) {
    case S_PROBE:
        return garden->beds[sensor->of].seen / sensor->full;
    case S_PRESSURE:
        return garden->outputs[sensor->of].pressure_pa / sensor->full;
    case S_LIGHT:
        return least(1, garden->weather.sun / sensor->full);
    case S_DEPTH:
        return vessel_depth(&garden->vessels[sensor->of]) * PA_MM /
               sensor->full;
    case S_BATTERY:
        return garden->battery_v / sensor->full;
    default:
        return 0;
    }
}

static double raw_of(const struct garden *garden, struct sensor *sensor)
{
    switch (sensor->kind) {
    case S_ECHO:
        return echo_us(garden, sensor);
    case S_WORD:
        return distance_mm(garden, sensor);
    case S_FLOAT:
        return vessel_depth(&garden->vessels[sensor->of]) > sensor->mark_mm;
    case S_FLOW: /* a count of 16 bits, of pulses since it was built */
        return fmod(
            floor(garden->outputs[sensor->of].truth.moved_l * sensor->full),
            65536);
    case S_AIR:
        return garden->weather.air * 16;
    case S_TUNNEL:
        return garden->tunnel_air * 10;
    case S_DAMP:
        return garden->weather.damp * 10;
    case S_TUNNEL_DAMP:
        return garden->tunnel_damp * 10;
    default:
        return sensor->low +
               (sensor->high - sensor->low) * share_of(garden, sensor);
    }
}

/* A pump that starts pulls the supply down: the sensor begins anew, and is
 * silent for so long. */
#define DIP_S 4

static bool is_silent(const struct garden *garden, const struct sensor *sensor)
{
    return sensor->is_lost ||
           (sensor->dips && garden->now_s - garden->dip_s < DIP_S);
}

bool garden_came_torn(const struct garden *garden, int i)
{
    return garden->sensors[i].came_torn;
}

/* What is heard in place of the raw value: shorted, or a float that flips. */
static int32_t heard_of(struct sensor *sensor)
{
    if (sensor->is_shorted)
        return 0;
    if (sensor->kind == S_FLOAT && sensor->is_bouncing &&
        garden_chance(&sensor->chance) < 0.5)
        return !sensor->last;
    return sensor->last;
}

/* To the nearest whole number, a half upwards, as far as 32 bits go. */
static int32_t rounded(double value)
{
    value = most(-2e9, least(2e9, value));
    int32_t whole = (int32_t)(value + 0.5);
    return whole > value + 0.5 ? whole - 1 : whole;
}

bool garden_raw(struct garden *garden, int i, int32_t *raw)
{
    struct sensor *sensor = &garden->sensors[i];
    bool missing = garden_chance(&sensor->chance) < sensor->missing;
    double noise =
        sensor->noise > 0 ? sensor->noise * garden_normal(&sensor->chance) : 0;
    sensor->came_torn = sensor->is_torn && garden_chance(&sensor->chance) < 0.8;
    if (is_silent(garden, sensor) || missing || sensor->came_torn)
        return false;
    if (!sensor->is_stuck)
        sensor->last = rounded(raw_of(garden, sensor) + noise + sensor->drift);
    *raw = heard_of(sensor);
    return true;
}
