/* What a sensor must know to tell water at the brim from a spider in its beam:
 * where the top tenth of its tank begins, and how fast the water can rise. Once
 * pumps are made. */
#include <math.h>

#include "inside.h"

#define TOP_TENTH (CUP_TANK_FULL - CUP_TANK_FULL / 10)

/* The depth at which a tank is so full, in its own steps; rounded up. */
static uint32_t depth_at(const struct cup_tank *tank, int32_t pct100)
{
    uint32_t low = 0;
    uint32_t high = tank->fill->knots[tank->fill->count - 1].x;
    while (low < high) {
        uint32_t mid = (low + high) / 2;
        if (cup_curve_value(tank->fill, (uint16_t)mid) < pct100)
            low = mid + 1;
        else
            high = mid;
    }
    return low;
}

/* What all that fill a tank give together, in ml a minute. */
static double flow_into(const struct cup_file *file, const struct thing *tank)
{
    double flow = 0;
    for (size_t i = 0; i < file->things.count; i++) {
        const struct thing *pump = &file->things.list[i];
        if (pump->kind != KIND_PUMP)
            continue;
        const struct value *into = good_value(pump, "into");
        if (into && &file->things.list[into->number] == tank)
            flow += number_of(pump, "flow", 0);
    }
    return flow;
}

/* The least that a tank holds in one step of its depth, in ml. */
static double least_ml(const struct cup_tank *tank)
{
    double least = INFINITY;
    const struct cup_curve *volume = tank->volume;
    for (int i = 1; i < volume->count; i++) {
        double ml = (double)volume->knots[i].y - volume->knots[i - 1].y;
        double steps = (double)volume->knots[i].x - volume->knots[i - 1].x;
        if (ml > 0)
            least = fmin(least, ml / steps);
    }
    return least;
}

/* How far the water may rise in a second, in the sensor's unit. */
static uint32_t rise_of(const struct cup_file *file, const struct thing *thing,
                        const struct cup_tank *tank,
                        const struct cup_checks *checks)
{
    if (checks->jump_per_s > 0)
        return checks->jump_per_s;
    double steps = flow_into(file, thing) / 60 / least_ml(tank);
    return (uint32_t)fmin(ceil(steps * tank->step_mm10), 1e6);
}

static void make_brim(struct cup_file *file, const struct thing *thing)
{
    const struct cup_tank *tank = &file->plan.tanks[thing->index];
    if (tank->form != CUP_TANK_DISTANCE || !tank->fill || !tank->volume ||
        tank->fill->count < 2)
        return;
    const struct cup_sensor *sensor = &file->plan.sensors[tank->sensor];
    if (!sensor->checks || sensor->checks->near <= 0)
        return;
    struct cup_checks *checks = plan_checks(file, tank->sensor);
    cup_value brim =
        (cup_value)(tank->top -
                    (cup_value)(depth_at(tank, TOP_TENTH) * tank->step_mm10));
    if (brim <= 0 || (checks->brim > 0 && brim >= checks->brim))
        return; /* of two tanks the one that is full later counts */
    checks->brim = brim;
    checks->rise_per_s = rise_of(file, thing, tank, checks);
}

void plan_make_brims(struct cup_file *file)
{
    for (size_t i = 0; i < file->things.count && file->problems.errors == 0;
         i++)
        if (file->things.list[i].kind == KIND_TANK)
            make_brim(file, &file->things.list[i]);
}
