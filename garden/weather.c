/* Sun by latitude and date, clouds, warmth, showers, and what plants use. */
#include <math.h>

#include "inside.h"

#define PI 3.14159265358979323846
#define DAY_S 86400.0
/* What the sun gives where the air ends, MJ/m2 in a minute (FAO-56). */
#define SOLAR 0.0820
/* MJ/m2 into mm of water (FAO-56, box of conversions). */
#define MM_OF_MJ 0.408

static double declination(double day)
{
    return 0.409 * sin(2 * PI * day / 365 - 1.39); /* equation 24 */
}

double garden_radiation(double latitude_deg, int day_of_year)
{
    double latitude = latitude_deg * PI / 180;
    double away = 1 + 0.033 * cos(2 * PI * day_of_year / 365); /* 23 */
    double sun = declination(day_of_year);
    double set = acos(most(-1, least(1, -tan(latitude) * tan(sun)))); /* 25 */
    return 24 * 60 / PI * SOLAR * away *
           (set * sin(latitude) * sin(sun) +
            cos(latitude) * cos(sun) * sin(set));
}

double garden_hargreaves(double radiation, double warmest, double coldest)
{
    double mean = (warmest + coldest) / 2;
    return 0.0023 * (mean + 17.8) * sqrt(most(0, warmest - coldest)) *
           radiation * MM_OF_MJ;
}

double garden_sun(double latitude_deg, double day_of_year, double day_part)
{
    double latitude = latitude_deg * PI / 180;
    double sun = declination(day_of_year);
    double hour = 2 * PI * (day_part - 0.5);
    return most(0, sin(latitude) * sin(sun) +
                       cos(latitude) * cos(sun) * cos(hour));
}

static void new_day(struct garden *garden, int day)
{
    struct weather *weather = &garden->weather;
    weather->day = day;
    double radiation = garden_radiation(weather->latitude, day);
    double season = -cos(2 * PI * (day - 20) / 365.0);
    double warm = weather->warm + 4 * season;
    double coldest = warm - weather->swing / 2;
    double warmest = warm + weather->swing / 2;
    weather->radiation = garden_hargreaves(radiation, warmest, coldest);
}

void garden_weather_begin(struct garden *garden)
{
    garden->weather.cloud = garden->weather.clouds;
    garden->weather.day = -1;
}

/* Clouds wander about their mean; showers come under thick ones. */
static void wander(struct garden *garden)
{
    struct weather *weather = &garden->weather;
    double pull = (weather->clouds - weather->cloud) / 180;
    weather->cloud += pull + 0.03 * garden_normal(&garden->weather_chance);
    weather->cloud = most(0, least(1, weather->cloud));
    if (weather->shower_left_s <= 0 &&
        garden_chance(&garden->weather_chance) < weather->showers / 1440) {
        weather->shower_left_s =
            1200 + 2400 * garden_chance(&garden->weather_chance);
        weather->rain_mm_s =
            weather->shower_mm *
            (0.4 + 1.2 * garden_chance(&garden->weather_chance)) /
            weather->shower_left_s;
        weather->cloud = 1;
    }
}

/* Once a minute: more often nothing of it changes. */
static void look(struct garden *garden)
{
    struct weather *weather = &garden->weather;
    double part = fmod(garden->clock_s, DAY_S) / DAY_S;
    int day = (int)(garden->clock_s / DAY_S) % 365 + 1;
    if (day != weather->day)
        new_day(garden, day);
    wander(garden);
    double height = garden_sun(weather->latitude, day, part);
    double season = -cos(2 * PI * (day - 20) / 365.0);
    weather->sun = height * (1 - 0.65 * weather->cloud);
    weather->air = weather->warm + 4 * season +
                   weather->swing / 2 * cos(2 * PI * (part - 0.625)) -
                   2 * (weather->cloud - 0.5);
    weather->damp = 88 - 45 * weather->sun + 10 * weather->cloud;
    /* the day's water, when the sun shines: half of the height's mean is */
    double mean = garden_radiation(weather->latitude, day) / (SOLAR * 1440);
    weather->et0_mm_s =
        mean > 0 ? weather->radiation * height / mean / DAY_S : 0;
}

/* The tunnel warms in the sun, and cools through its vent and fan. */
static void step_tunnel(struct garden *garden)
{
    const struct weather *weather = &garden->weather;
    double wide = garden->vent < 0 ? 0 : garden->outputs[garden->vent].place;
    double fan = garden->fan < 0 ? 0 : garden->outputs[garden->fan].place;
    double air = 1 + 4 * wide + 3 * fan;
    double warm = weather->air + 26 * weather->sun / air;
    double damp = weather->damp + 25 / air;
    garden->tunnel_air += (warm - garden->tunnel_air) / 900;
    garden->tunnel_damp += (least(99, damp) - garden->tunnel_damp) / 900;
}

void garden_weather_step(struct garden *garden)
{
    struct weather *weather = &garden->weather;
    if (garden->clock_s % 60 == 0 || weather->day < 0)
        look(garden);
    if (weather->shower_left_s > 0)
        weather->shower_left_s -= 1;
    else
        weather->rain_mm_s = 0;
    step_tunnel(garden);
}
