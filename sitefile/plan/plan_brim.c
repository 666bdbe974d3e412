/* What a sensor must know to tell water at the brim from a spider in its beam:
 * where the top tenth of its tank begins, and how fast the water can rise. Once
 * pumps are made. */
#include <math.h>
#include <stdlib.h>

#include "../inside.h"

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

/* What all that fill a tank give together, in ml a minute, for each thing. */
static double *list_flows(const struct cup_file *file)
{
    double *flows = calloc(file->things.count, sizeof(*flows));
    if (!flows)
        abort();
    for (size_t i = 0; i < file->things.count; i++) {
        const struct thing *pump = &file->things.list[i];
        const struct value *into =
            pump->kind == KIND_PUMP ? good_value(pump, "into") : NULL;
        if (into)
            flows[into->number] += number_of(pump, "flow", 0);
    }
    return flows;
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
static uint32_t rise_of(const struct cup_tank *tank,
                        const struct cup_checks *checks, double flow)
{
    if (checks->jump_per_s > 0)
        return checks->jump_per_s;
    double steps = flow / 60 / least_ml(tank);
    return (uint32_t)fmin(ceil(steps * tank->step_mm10), 1e6);
}

static void make_brim(struct cup_file *file, const struct thing *thing,
                      double flow)
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
    checks->rise_per_s = rise_of(tank, checks, flow);
}

void plan_make_brims(struct cup_file *file)
{
    if (file->problems.errors > 0 || file->things.count == 0)
        return;
    double *flows = list_flows(file);
    for (size_t i = 0; i < file->things.count; i++)
        if (file->things.list[i].kind == KIND_TANK)
            make_brim(file, &file->things.list[i], flows[i]);
    free(flows);
}
