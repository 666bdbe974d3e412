/* A bed: water on top soaks in, plants use it, what the soil can't hold drains
 * away. The figures of a texture are those of FAO-56, table 19. */
#include <math.h>

#include "inside.h"

/* Readily available: this share of what plants can take costs them nothing
 * (FAO-56, table 22, vegetables). */
#define READY 0.45
/* What is over field capacity drains within half a day. */
#define DRAINS_S 43200.0

static void soak(struct bed *bed)
{
    double in = least(bed->pool_mm, bed->soaks_mm_s);
    double room = bed->full * bed->roots_mm - bed->water_mm;
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
    double over = bed->water_mm - bed->field * bed->roots_mm;
    if (over <= 0)
        return;
    bed->water_mm -= over / DRAINS_S;
    bed->drained_mm += over / DRAINS_S;
}

/* Under the ready water plants take less (FAO-56, equation 84). */
static void use(struct bed *bed, double et0_mm_s)
{
    double all = (bed->field - bed->wilting) * bed->roots_mm;
    double gone = bed->field * bed->roots_mm - bed->water_mm;
    double stress = most(0, least(1, (all - gone) / ((1 - READY) * all)));
    double used = et0_mm_s * bed->crop * stress;
    bed->water_mm -= used;
    bed->used_mm += used;
}

static void score(struct bed *bed)
{
    double share = bed->water_mm / bed->roots_mm;
    double dry = bed->field - READY * (bed->field - bed->wilting);
    double wet = bed->field + 0.5 * (bed->full - bed->field);
    if (share < dry)
        bed->truth.dry_h += 1 / 3600.0;
    else if (share > wet)
        bed->truth.wet_h += 1 / 3600.0;
    else
        bed->truth.right_h += 1 / 3600.0;
    bed->seen += (share - bed->seen) / bed->delay_s;
}

void garden_soil_step(struct garden *garden, struct bed *bed)
{
    const struct weather *weather = &garden->weather;
    bed->pool_mm += weather->rain_mm_s;
    bed->rain_mm += weather->rain_mm_s;
    if (bed->pool_mm > 0)
        soak(bed);
    drain(bed);
    use(bed, weather->et0_mm_s);
    score(bed);
}
