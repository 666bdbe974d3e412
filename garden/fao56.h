/* Published figures: "Crop evapotranspiration", FAO Irrigation and Drainage
 * Paper 56. Equations and tables are named by their numbers there.
 *
 * In use:
 *
 *     double mj = fao56_radiation(-20, fao56_day_of_year(clock_s));
 *     double mm = fao56_hargreaves(mj, 26.6, 14.8); */
#ifndef CUPLATCH_GARDEN_FAO56_H
#define CUPLATCH_GARDEN_FAO56_H

#include <stdint.h>

/* The day of the year, 1 to 366, in UTC, of s since the year 1970 began. */
int fao56_day_of_year(int64_t clock_s);

/* Radiation where the air ends, MJ/m2 in a day (equation 21). Degrees, south is
 * negative. */
double fao56_radiation(double latitude_deg, int day_of_year);

/* Hours from sunrise to sunset (equation 34). */
double fao56_daylight_h(double latitude_deg, int day_of_year);

/* What of it reaches the ground under so much cloud, 0 to 1 of the sky: a share
 * (equation 35 with its usual constants; the sun shines for what the clouds
 * leave). */
double fao56_through(double cloud);

/* How high the sun stands: the sine of its height, 0 when it is down. The part
 * of a day is 0.5 at solar noon. */
double fao56_sun(double latitude_deg, int day_of_year, double day_part);

/* Reference evapotranspiration, mm in a day, of a day's radiation in MJ/m2 and
 * its warmest and coldest, C (equation 52). */
double fao56_hargreaves(double radiation, double warmest, double coldest);

/* Pressure of vapour that saturates air of so many C, kPa (equation 11). */
double fao56_saturation(double warm);

/* The share of what a soil holds for plants that costs them nothing: the
 * table's for 5 mm in a day, for so many mm in a day (table 22, its note). */
double fao56_ready(double table, double mm_day);

/* How much of their need plants take when that share is ready and so much of
 * what the soil holds for them is gone, 0 to 1 both (equation 84). */
double fao56_stress(double ready, double gone);

/* A soil by its texture, mid-range of table 19: shares of volume at field
 * capacity and at the wilting point. What it holds when full, how fast it takes
 * water in, mm/h, and how long until two thirds of what it cannot hold have
 * drained, h, are our own round numbers. */
struct fao56_soil {
    const char *texture;
    double field, wilting, full, soaks_mm_h, drains_h;
};
#define FAO56_SOILS 9
extern const struct fao56_soil fao56_soils[FAO56_SOILS];

#endif
