/* The beginner's loop and the careful one. */
#include "loops.h"

#include <string.h>

struct yard yard_of(struct garden *garden)
{
    return (struct yard){
        .garden = garden,
        .soil = garden_sensor(garden, "kale_soil"),
        .cistern = garden_sensor(garden, "cistern_echo"),
        .header = garden_sensor(garden, "header_echo"),
        .sky = garden_sensor(garden, "sky"),
        .tray_float = garden_sensor(garden, "tray_float"),
        .lift = garden_output(garden, "lift"),
        .bed_pump = garden_output(garden, "bed_pump"),
        .tray_pump = garden_output(garden, "tray_pump"),
    };
}

double yard_soil_pct(int32_t raw)
{
    return 100.0 * (2910 - raw) / (2910 - 1180);
}

double yard_depth_mm(int32_t echo_us, double face_mm)
{
    return face_mm - echo_us * 0.1717;
}

/* A missed sample is 0, as it comes from a sensor that times out. */
static int32_t latest(const struct yard *yard, int sensor)
{
    int32_t raw = 0;
    return garden_raw(yard->garden, sensor, &raw) ? raw : 0;
}

/* The beginner */

void beginner_step(const struct yard *yard, uint32_t s)
{
    double header = yard_depth_mm(latest(yard, yard->header), 850) / 7;
    double soil = yard_soil_pct(latest(yard, yard->soil));
    garden_drive(yard->garden, yard->lift, header < 60);
    if (s % 30 == 0)
        garden_drive(yard->garden, yard->bed_pump, soil < 54);
    garden_drive(yard->garden, yard->tray_pump, s % 9000 < 540);
}

/* The careful one */

void loops_keep(double *window, int *count, int most, double value)
{
    memmove(window + 1, window, (size_t)(most - 1) * sizeof(*window));
    window[0] = value;
    if (*count < most)
        ++*count;
}

double loops_median(const double *window, int count)
{
    double sorted[LOOPS_WINDOW_MOST];
    for (int i = 0; i < count; i++) {
        int at = i;
        for (; at > 0 && sorted[at - 1] > window[i]; at--)
            sorted[at] = sorted[at - 1];
        sorted[at] = window[i];
    }
    return count > 0 ? sorted[count / 2] : 0;
}

/* A missed echo keeps what was known. */
static double depth(const struct yard *yard, int sensor, double face_mm,
                    double *window, int *count)
{
    int32_t raw = latest(yard, sensor);
    if (raw > 0)
        loops_keep(window, count, CAREFUL_WINDOW, yard_depth_mm(raw, face_mm));
    return loops_median(window, *count);
}

/* A run of the lift is 45 minutes at the most, then it rests for ten. */
static bool may_lift(struct careful *careful, bool wish, uint32_t s)
{
    if (!wish || s - careful->lift_s >= 3300)
        careful->lift_s = s;
    return wish && s - careful->lift_s < 2700;
}

static void fill(struct careful *careful, const struct yard *yard, uint32_t s)
{
    double cistern = depth(yard, yard->cistern, 1780, careful->cistern,
                           &careful->cistern_count) /
                     16;
    double header = depth(yard, yard->header, 850, careful->header,
                          &careful->header_count) /
                    7;
    if (cistern < 12)
        careful->low = true;
    if (cistern > 16)
        careful->low = false;
    if (header < 38)
        careful->filling = true;
    if (header > 84)
        careful->filling = false;
    garden_drive(yard->garden, yard->lift,
                 may_lift(careful, careful->filling && !careful->low, s));
}

static void water(struct careful *careful, const struct yard *yard, uint32_t s)
{
    if (s % 30 == 0) {
        double soil = yard_soil_pct(latest(yard, yard->soil));
        if (soil < 50 && !careful->watering) {
            careful->watering = true;
            careful->water_s = s;
        }
        if (soil > 58)
            careful->watering = false;
    }
    /* two minutes on, eight off, so that it soaks in */
    bool on = careful->watering && (s - careful->water_s) % 600 < 120;
    garden_drive(yard->garden, yard->bed_pump, on);
}

static void flood(struct careful *careful, const struct yard *yard, uint32_t s)
{
    bool day = latest(yard, yard->sky) > 2000;
    bool due = !careful->flooded || s - careful->last_flood_s >= 9000;
    if (day && due && !careful->flooding) {
        careful->flooding = careful->flooded = true;
        careful->last_flood_s = s;
    }
    if (s - careful->last_flood_s >= 540 || latest(yard, yard->tray_float))
        careful->flooding = false;
    garden_drive(yard->garden, yard->tray_pump, careful->flooding);
}

void careful_step(struct careful *careful, const struct yard *yard, uint32_t s)
{
    fill(careful, yard, s);
    water(careful, yard, s);
    flood(careful, yard, s);
}
