/* Tanks of every shape and source, against closed forms worked out here by
 * adding up thin slices, not by the formulas of the site file reader. */
#include <math.h>
#include <stdio.h>
#include <string.h>

#include "../../sitefile/sitefile.h"
#include "../harness/harness.h"

#define LASER                                                                  \
    "[site]\nscan = 1s\n[s]\nis = sensor\nform = range-word\nport = i2c:1\n"   \
    "every = 1s\n"
#define PRESSURE                                                               \
    "[site]\nscan = 1s\n[s]\nis = sensor\nform = loop\nport = adc:1\n"         \
    "every = 1s\nmeasures = pressure\npoints = 4000:0bar 20000:2bar\n"
#define TANK "[t]\nis = tank\nsensor = s\n"

static struct cup_file *file;

static const struct cup_tank *tank_of(const char *text)
{
    FILE *in = fmemopen((void *)text, strlen(text), "r");
    file = cup_file_read_from(in, "site");
    fclose(in);
    if (cup_file_errors(file) > 0)
        cup_file_problems(file, stdout);
    const struct cup_plan *plan = cup_file_plan(file);
    return CHECK(plan != NULL) ? &plan->tanks[0] : NULL;
}

typedef double (*width_at)(double mm);

static double lying_slice(double mm) /* 800 mm round, 2000 mm long */
{
    return 2 * sqrt(fmax(0, 400.0 * 400 - (mm - 400) * (mm - 400))) * 2000;
}

static double tapered_slice(double mm) /* 300 mm to 500 mm over 600 mm */
{
    double diameter = 300 + 200 * mm / 600;
    return 3.14159265358979 / 4 * diameter * diameter;
}

static double box_slice(double mm)
{
    (void)mm;
    return 700.0 * 400;
}

/* Litres below a height, by slices of a tenth of a millimetre. */
static double litres_below(width_at slice, double mm)
{
    double sum = 0;
    int slices = (int)(mm * 10 + 0.5);
    for (int i = 0; i < slices; i++)
        sum += slice(i * 0.1 + 0.05) * 0.1;
    return sum / 1e6;
}

static void check_shape(const char *text, width_at slice, double depth,
                        double top, double within)
{
    const struct cup_tank *tank = tank_of(text);
    double all = litres_below(slice, depth);
    for (int i = 0; tank && i <= 200; i++) {
        double mm = depth * i / 200;
        int32_t distance = (int32_t)lround((top - mm) * 10);
        double truth = litres_below(slice, mm);
        harness_at("%.1f mm", mm);
        CHECK(fabs(cup_tank_fill_pct100(tank, distance) / 100.0 -
                   100 * truth / all) < within);
        CHECK(fabs(cup_tank_volume_ml(tank, distance) / 1000.0 - truth) <
              all * within / 100);
        CHECK(fabs(cup_tank_ullage_ml(tank, distance) / 1000.0 -
                   (all - truth)) < all * within / 100);
    }
    cup_file_free(file);
}

CASE(a_lying_tank_is_right_within_three_thousandths_of_its_volume)
{
    check_shape(LASER TANK "shape = lying\ndiameter = 800mm\nlength = 2m\n"
                           "gap = 100mm\n",
                lying_slice, 800, 900, 0.3);
}

CASE(a_lying_tank_may_be_full_below_its_crown)
{
    check_shape(LASER TANK "shape = lying\ndiameter = 800mm\nlength = 2m\n"
                           "depth = 700mm\ngap = 100mm\n",
                lying_slice, 700, 800, 0.3);
}

CASE(a_tapered_tank_is_right)
{
    check_shape(LASER TANK "shape = tapered\nbottom = 300mm\ntop = 500mm\n"
                           "depth = 600mm\ngap = 100mm\n",
                tapered_slice, 600, 700, 0.1);
}

CASE(a_box_is_right)
{
    check_shape(LASER TANK "shape = box\nlength = 700mm\nwidth = 40cm\n"
                           "depth = 0.5m\ngap = 50mm\n",
                box_slice, 500, 550, 0.02);
}

CASE(a_strapping_table_is_followed)
{
    const struct cup_tank *tank =
        tank_of(LASER TANK "shape = table\ngap = 100mm\n"
                           "table = 0mm:0L 200mm:10L 400mm:50L\n");
    CHECK_INT(cup_tank_fill_pct100(tank, 5000), 0);
    CHECK_INT(cup_tank_fill_pct100(tank, 3000), 2000);
    CHECK_INT(cup_tank_fill_pct100(tank, 2000), 6000);
    CHECK_INT(cup_tank_volume_ml(tank, 2000), 30000);
    CHECK_INT(cup_tank_ullage_ml(tank, 2000), 20000);
    CHECK_INT(cup_tank_fill_pct100(tank, 0), 10000);
    cup_file_free(file);
}

/* 1 bar stands for 10.197 m of water at 4 C. */
CASE(a_bar_is_ten_metres_of_water)
{
    const struct cup_tank *tank =
        tank_of(PRESSURE TANK "shape = upright\ndiameter = 2m\n"
                              "depth = 15m\ndensity = 1000\n");
    CHECK_INT(cup_tank_depth(tank, 100000), 10197);
    CHECK_INT(tank->step_mm10, 10);
    CHECK_INT(cup_tank_depth(tank, -5), 0);
    CHECK_INT(cup_tank_depth(tank, INT32_MAX), UINT16_MAX);
    cup_file_free(file);
    tank = tank_of(PRESSURE TANK "shape = upright\ndiameter = 2m\n"
                                 "depth = 2m\nabove = 50mm\n");
    CHECK_INT(cup_tank_depth(tank, 0), 500);
    CHECK_INT(cup_tank_depth(tank, -1), 500);
    CHECK_INT(cup_tank_depth(tank, INT32_MIN), 500);
    for (int32_t pa = 70000; pa < INT32_MAX - 999983; pa += 999983)
        CHECK_INT(cup_tank_depth(tank, pa), UINT16_MAX);
    CHECK_INT(cup_tank_depth(tank, 10000), 10197 + 500);
    CHECK_INT(cup_tank_fill_pct100(tank, 10000), 5349);
    cup_file_free(file);
}

CASE(heavier_liquor_stands_lower)
{
    const struct cup_tank *tank =
        tank_of(PRESSURE TANK "shape = upright\ndiameter = 2m\n"
                              "depth = 3m\ndensity = 1200\n");
    CHECK_INT(cup_tank_depth(tank, 20000), 16995);
    cup_file_free(file);
}

CASE(a_level_in_per_cent_is_of_the_depth)
{
    const struct cup_tank *tank =
        tank_of("[site]\nscan = 1s\n[s]\nis = sensor\nform = volts\n"
                "port = adc:1\nevery = 1s\nmeasures = level\n"
                "points = 0:0% 5000:100%\n" TANK
                "shape = lying\ndiameter = 800mm\nlength = 2m\n");
    CHECK_INT(cup_tank_fill_pct100(tank, 5000), 5000);
    CHECK(cup_tank_fill_pct100(tank, 2500) < 2000);
    CHECK_INT(cup_tank_fill_pct100(tank, 10000), 10000);
    cup_file_free(file);
}
