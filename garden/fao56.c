/* Sun, what plants use, vapour and soils, by FAO-56. */
#include "fao56.h"

#include <math.h>
#include <time.h>

#define PI 3.14159265358979323846
/* What the sun gives where the air ends, MJ/m2 in a minute. */
#define SOLAR 0.0820
/* MJ/m2 into mm of water. */
#define MM_OF_MJ 0.408

const struct fao56_soil fao56_soils[FAO56_SOILS] = {
    {"sand", 0.12, 0.045, 0.38, 30, 6},
    {"loamy sand", 0.15, 0.065, 0.40, 28, 7},
    {"sandy loam", 0.23, 0.11, 0.43, 24, 9},
    {"loam", 0.25, 0.12, 0.45, 15, 12},
    {"silt loam", 0.29, 0.15, 0.47, 12, 15},
    {"silt", 0.32, 0.17, 0.48, 10, 18},
    {"silt clay loam", 0.335, 0.205, 0.49, 8, 24},
    {"silty clay", 0.36, 0.23, 0.50, 5, 30},
    {"clay", 0.36, 0.22, 0.50, 4, 36},
};

static double within(double low, double value, double high)
{
    return value < low ? low : value > high ? high : value;
}

int fao56_day_of_year(int64_t clock_s)
{
    time_t clock = (time_t)clock_s;
    struct tm day;
    return gmtime_r(&clock, &day) ? day.tm_yday + 1 : 1;
}

static double declination(int day)
{
    return 0.409 * sin(2 * PI * day / 365 - 1.39); /* equation 24 */
}

/* The hour angle at which the sun sets: 0 when it never rises, pi when it never
 * sets (equation 25). */
static double sunset(double latitude, double sun)
{
    return acos(within(-1, -tan(latitude) * tan(sun), 1));
}

double fao56_radiation(double latitude_deg, int day_of_year)
{
    double latitude = latitude_deg * PI / 180;
    double away = 1 + 0.033 * cos(2 * PI * day_of_year / 365); /* 23 */
    double sun = declination(day_of_year);
    double set = sunset(latitude, sun);
    return 24 * 60 / PI * SOLAR * away *
           (set * sin(latitude) * sin(sun) +
            cos(latitude) * cos(sun) * sin(set));
}

double fao56_daylight_h(double latitude_deg, int day_of_year)
{
    return 24 / PI * sunset(latitude_deg * PI / 180, declination(day_of_year));
}

double fao56_through(double cloud)
{
    return 0.25 + 0.50 * (1 - cloud);
}

double fao56_sun(double latitude_deg, int day_of_year, double day_part)
{
    double latitude = latitude_deg * PI / 180;
    double sun = declination(day_of_year);
    double hour = 2 * PI * (day_part - 0.5);
    return within(
        0, sin(latitude) * sin(sun) + cos(latitude) * cos(sun) * cos(hour), 1);
}

double fao56_hargreaves(double radiation, double warmest, double coldest)
{
    double mean = (warmest + coldest) / 2;
    double swing = warmest > coldest ? warmest - coldest : 0;
    double mm = 0.0023 * (mean + 17.8) * sqrt(swing) * radiation * MM_OF_MJ;
    return mm > 0 ? mm : 0;
}

double fao56_saturation(double warm)
{
    return 0.6108 * exp(17.27 * warm / (warm + 237.3));
}

double fao56_ready(double table, double mm_day)
{
    return within(0.1, table + 0.04 * (5 - mm_day), 0.8);
}

double fao56_stress(double ready, double gone)
{
    return within(0, (1 - gone) / (1 - ready), 1);
}
