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

/* There and back through air of that warmth. */
static double us_of(const struct garden *garden, double mm)
{
    double speed = 331.3 + 0.606 * garden->weather.air; /* m/s */
    return 2000 * mm / speed;
}

/* A rung a third of the way down is heard instead of water that is below it,
 * for bursts of some seconds to twenty minutes, and for as long not. */
#define RUNG_LEAST_S 5.0
#define RUNG_RANGE 240.0

static bool hears_rung(const struct garden *garden, struct sensor *sensor)
{
    if (!sensor->is_rung)
        return false;
    if (garden->now_s >= sensor->rung_until_s) {
        sensor->rung_heard = !sensor->rung_heard;
        sensor->rung_until_s =
            garden->now_s +
            RUNG_LEAST_S * pow(RUNG_RANGE, garden_chance(&sensor->chance));
    }
    return sensor->rung_heard;
}

/* Where the echo comes from: the water, or what lies about it. */
static double heard_mm(const struct garden *garden, struct sensor *sensor)
{
    const struct vessel *vessel = &garden->vessels[sensor->of];
    double mm = distance_mm(garden, sensor);
    double floor_mm = vessel->depth + sensor->gap_mm;
    if (hears_rung(garden, sensor))
        mm = least(mm, sensor->gap_mm + vessel->depth / 3);
    if (sensor->is_leap)
        mm = most(sensor->gap_mm, mm - 0.4 * vessel->depth);
    if (sensor->is_floor)
        mm = floor_mm;
    if (sensor->is_spider)
        mm = least(mm, 25);
    return most(1, mm - sensor->foam * vessel->depth);
}

static double echo_us(const struct garden *garden, struct sensor *sensor)
{
    double mm = heard_mm(garden, sensor) + ripple(garden, sensor);
    double spike = garden_chance(&sensor->chance);
    if (spike < sensor->spikes / 2) /* an echo of the wall */
        mm *= 0.3 + 0.5 * garden_chance(&sensor->chance);
    else if (spike < sensor->spikes) /* the first was missed, a later heard */
        mm *= 1.2 + 0.9 * garden_chance(&sensor->chance);
    return us_of(garden, mm);
}

/* What a mm of water weighs, in Pa: 1000 kg/m3 at 9.80665 m/s2. */
#define PA_MM 9.80665

/* What the sensor measures, as a share of its full scale. */
static double share_of(const struct garden *garden, const struct sensor *sensor)
{
    switch (sensor->kind) {
    case S_PROBE:
        return garden->beds[sensor->of].seen_mm /
               (garden->beds[sensor->of].roots_mm * sensor->full);
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

static double raw_of(const struct garden *garden, const struct sensor *sensor)
{
    switch (sensor->kind) {
    case S_ECHO:
        return us_of(garden, distance_mm(garden, sensor));
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
        return garden->tunnel.air * 10;
    case S_DAMP:
        return garden->weather.damp * 10;
    case S_TUNNEL_DAMP:
        return garden->tunnel.damp * 10;
    default:
        return sensor->low +
               (sensor->high - sensor->low) * share_of(garden, sensor);
    }
}

/* A pump that starts pulls the supply down: the sensor begins anew, and is
 * silent for so long. */
#define DIP_S 4

/* Without its supply, or not yet warm: how much of its scale comes. */
static double power_of(const struct garden *garden, const struct sensor *sensor)
{
    if (!sensor->switched)
        return 1;
    if (sensor->fed_at_s < 0)
        return 0;
    double on_s = garden->now_s + garden->late_s - sensor->fed_at_s;
    return on_s >= sensor->warms_s ? 1 : on_s / sensor->warms_s;
}

/* What is read as a voltage reads something even then. */
static bool is_analog(const struct sensor *sensor)
{
    return sensor->kind == S_PROBE || sensor->kind == S_LIGHT ||
           sensor->kind == S_PRESSURE || sensor->kind == S_DEPTH;
}

static bool is_silent(const struct garden *garden, const struct sensor *sensor)
{
    return sensor->is_lost ||
           (!is_analog(sensor) && power_of(garden, sensor) < 1) ||
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

/* Samples that do not come do so in rows, three on the mean. */
#define MISSING_ROW 3

static bool is_missing(struct sensor *sensor)
{
    double leaves = 1.0 / MISSING_ROW;
    double comes = sensor->missing < 1
                       ? leaves * sensor->missing / (1 - sensor->missing)
                       : 1;
    if (sensor->missing >= 1)
        leaves = 0;
    if (garden_chance(&sensor->chance) < (sensor->is_missing ? leaves : comes))
        sensor->is_missing = !sensor->is_missing;
    return sensor->is_missing;
}

/* The raw value with all that cheap sensors do to it. */
static double felt(const struct garden *garden, struct sensor *sensor)
{
    double raw = sensor->kind == S_ECHO   ? echo_us(garden, sensor)
                 : sensor->kind == S_WORD ? heard_mm(garden, sensor)
                                          : raw_of(garden, sensor);
    if (sensor->is_puddle)
        raw = sensor->high;
    if (sensor->noise > 0)
        raw += sensor->noise * garden_normal(&sensor->chance);
    return (raw + sensor->drift) * power_of(garden, sensor);
}

int32_t garden_true_raw(const struct garden *garden, int i)
{
    return rounded(raw_of(garden, &garden->sensors[i]));
}

bool garden_raw(struct garden *garden, int i, int32_t *raw)
{
    struct sensor *sensor = &garden->sensors[i];
    bool missing = sensor->missing > 0 && is_missing(sensor);
    double value = felt(garden, sensor);
    sensor->came_torn = sensor->is_torn && garden_chance(&sensor->chance) < 0.8;
    if (is_silent(garden, sensor) || missing || sensor->came_torn)
        return false;
    if (!sensor->is_stuck)
        sensor->last = rounded(value);
    *raw = heard_of(sensor);
    return true;
}
