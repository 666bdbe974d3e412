/* A bed: water on top soaks in, plants use it, what the soil can't hold drains
 * away. */
#include "fao56.h"
#include "inside.h"

static void soak(struct bed *bed)
{
    double in = least(bed->pool_mm, bed->soaks_mm_s);
    double room = bed->soil->full * bed->roots_mm - bed->water_mm;
    in = most(0, least(in, room));
    bed->pool_mm -= in;
    bed->water_mm += in;
    if (bed->pool_mm > 8) { /* it runs off the bed */
        bed->drained_mm += bed->pool_mm - 8;
        bed->pool_mm = 8;
    }
}

static void drain(struct bed *bed)
{
    double over = bed->water_mm - bed->soil->field * bed->roots_mm;
    if (over <= 0)
        return;
    over *= bed->drains_s;
    bed->water_mm -= over;
    bed->drained_mm += over;
}

/* Once a day: what plants take without trouble depends on how much they use. */
static void new_day(const struct weather *weather, struct bed *bed)
{
    bed->day = weather->day;
    const struct fao56_soil *soil = bed->soil;
    bed->ready = fao56_ready(bed->table, weather->et0_mm_day * bed->crop);
    bed->dry_mm = bed->roots_mm *
                  (soil->field - bed->ready * (soil->field - soil->wilting));
    bed->wet_mm =
        bed->roots_mm * (soil->field + 0.5 * (soil->full - soil->field));
}

static void use(struct bed *bed, double et0_mm_s)
{
    double all = (bed->soil->field - bed->soil->wilting) * bed->roots_mm;
    double gone = bed->soil->field * bed->roots_mm - bed->water_mm;
    double used = et0_mm_s * bed->crop * fao56_stress(bed->ready, gone / all);
    used = least(used, bed->water_mm);
    bed->water_mm -= used;
    bed->used_mm += used;
}

static void score(struct bed *bed)
{
    if (bed->water_mm < bed->dry_mm)
        bed->dry_s += 1;
    else if (bed->water_mm > bed->wet_mm)
        bed->wet_s += 1;
    else
        bed->right_s += 1;
    bed->seen_mm += (bed->water_mm - bed->seen_mm) * bed->follows_s;
}

void garden_soil_step(struct garden *garden, struct bed *bed)
{
    const struct weather *weather = &garden->weather;
    if (bed->day != weather->day)
        new_day(weather, bed);
    bed->pool_mm += weather->rain_mm_s;
    bed->rain_mm += weather->rain_mm_s;
    if (bed->pool_mm > 0)
        soak(bed);
    drain(bed);
    if (weather->et0_mm_s > 0)
        use(bed, weather->et0_mm_s);
    score(bed);
}
