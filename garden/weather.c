/* Sun by latitude and date, clouds, showers in spells, warmth and vapour, and
 * what plants use. */
#include <math.h>

#include "fao56.h"
#include "inside.h"

#define PI 3.14159265358979323846
#define DAY_S 86400.0
/* Spells of wet weather last so many days on the mean, and are so much of the
 * year. */
#define WET_DAYS 1.6
#define WET_SHARE 0.35

/* How far into summer the year is, -1 to 1: the warmest days come a month after
 * the longest. */
static double summer(const struct weather *weather)
{
    double north = -cos(2 * PI * (weather->day - 20) / 365.25);
    return weather->latitude < 0 ? -north : north;
}

static void new_day(struct weather *weather, int day)
{
    weather->day = day;
    weather->mean = weather->warm + weather->seasons * summer(weather);
    weather->coldest = weather->mean - weather->swing / 2;
    double radiation = fao56_radiation(weather->latitude, day);
    weather->et0_mm_day = fao56_hargreaves(
        radiation, weather->coldest + weather->swing, weather->coldest);
    /* the mean over a day of the sine of the sun's height */
    double hours = 0;
    for (int part = 0; part < 96; part++)
        hours += fao56_sun(weather->latitude, day, (part + 0.5) / 96);
    weather->mean_sun = hours / 96;
    double daylight = fao56_daylight_h(weather->latitude, day) / 24;
    weather->taps_day = daylight > 0 ? (daylight < 1 ? 0.8 : 1) / daylight : 0;
    weather->taps_night =
        daylight < 1 ? (daylight > 0 ? 0.2 : 1) / (1 - daylight) : 0;
}

/* Thicker in wet spells and thinner in others, the same on the mean. */
static double usual_cloud(const struct weather *weather)
{
    double apart = least(0.4, least(weather->clouds / WET_SHARE,
                                    (1 - weather->clouds) / (1 - WET_SHARE)));
    return weather->clouds +
           apart * (weather->is_wet ? 1 - WET_SHARE : -WET_SHARE);
}

/* Spells come and go; in wet ones there are showers. */
static void wander(struct garden *garden)
{
    struct weather *weather = &garden->weather;
    uint64_t *chance = &garden->weather_chance;
    double days =
        weather->is_wet ? WET_DAYS : WET_DAYS * (1 - WET_SHARE) / WET_SHARE;
    if (garden_chance(chance) < 1 / (days * 1440))
        weather->is_wet = !weather->is_wet;
    double pull = (usual_cloud(weather) - weather->cloud) / 180;
    weather->cloud += pull + 0.03 * garden_normal(chance);
    weather->cloud = most(0, least(1, weather->cloud));
    double begins = garden_chance(chance);
    if (weather->shower_left_s > 0 || !weather->is_wet ||
        begins >= weather->showers / WET_SHARE / 1440)
        return;
    weather->shower_left_s = 1200 + 2400 * garden_chance(chance);
    weather->rain_mm_s = weather->shower_mm *
                         (0.4 + 1.2 * garden_chance(chance)) /
                         weather->shower_left_s;
    weather->cloud = 1;
}

/* The air outside, C: clouds keep days cooler and nights warmer. */
static double outside(const struct weather *weather, double part)
{
    double swing =
        weather->swing / 2 * (1 + 0.6 * (weather->clouds - weather->cloud));
    return weather->mean + swing * cos(2 * PI * (part - 0.625));
}

/* A day's coldest air is nearly saturated (FAO-56, equation 48): that much
 * vapour stays all day, but that rain brings more. */
static void breathe(struct weather *weather)
{
    double goal = fao56_saturation(weather->coldest);
    double most_vapour = fao56_saturation(weather->air);
    if (weather->rain_mm_s > 0)
        goal = most_vapour;
    weather->vapour += (goal - weather->vapour) / (4 * 60);
    weather->vapour = least(weather->vapour, most_vapour);
    weather->damp = 100 * weather->vapour / most_vapour;
}

/* Once a minute: more often nothing of it changes. */
static void look(struct garden *garden)
{
    struct weather *weather = &garden->weather;
    double part = fmod(garden->clock_s, DAY_S) / DAY_S;
    if (part == 0 || weather->day < 0)
        new_day(weather, fao56_day_of_year(garden->clock_s));
    wander(garden);
    double height = fao56_sun(weather->latitude, weather->day, part);
    double through = fao56_through(weather->cloud);
    weather->sun = height * through / fao56_through(0);
    weather->panel = height > 0 ? fao56_sun(0, weather->day, part) * through /
                                      fao56_through(0) * least(1, 4 * height)
                                : 0;
    weather->air = outside(weather, part);
    breathe(weather);
    /* the day's water goes by the sun of each minute; under its usual clouds a
     * day's sum is that of the equation */
    weather->et0_mm_s = 0;
    if (weather->mean_sun > 0)
        weather->et0_mm_s = weather->et0_mm_day * height / weather->mean_sun *
                            through / fao56_through(weather->clouds) / DAY_S;
}

void garden_weather_begin(struct garden *garden)
{
    struct weather *weather = &garden->weather;
    weather->day = -1;
    weather->is_wet = garden_chance(&garden->weather_chance) < WET_SHARE;
    weather->cloud = usual_cloud(weather);
    look(garden);
    weather->vapour = fao56_saturation(weather->coldest);
    breathe(weather);
}

void garden_weather_step(struct garden *garden)
{
    struct weather *weather = &garden->weather;
    if (garden->clock_s % 60 == 0)
        look(garden);
    if (weather->shower_left_s > 0)
        weather->shower_left_s -= 1;
    else
        weather->rain_mm_s = 0;
}
