/* Where the brim of a tank is for its ranger, which cannot see it: nearer than
 * it can measure is there. Once tanks are made. */
#include "../inside.h"

static void make_brim(struct cup_file *file, const struct thing *thing)
{
    const struct cup_tank *tank = &file->plan.tanks[thing->index];
    if (tank->form != CUP_TANK_DISTANCE || !tank->fill || tank->fill->count < 2)
        return;
    const struct cup_sensor *sensor = &file->plan.sensors[tank->sensor];
    if (!sensor->checks || sensor->checks->near <= 0)
        return;
    struct cup_checks *checks = plan_checks(file, tank->sensor);
    cup_value full =
        (cup_value)tank->fill->knots[tank->fill->count - 1].x * tank->step_mm10;
    cup_value brim = tank->top - full;
    brim = brim < checks->near ? brim : checks->near;
    if (brim <= 0)
        brim = 1;
    if (checks->brim == 0 || brim < checks->brim)
        checks->brim = brim;
}

void plan_make_brims(struct cup_file *file)
{
    for (size_t i = 0; i < file->things.count; i++)
        if (file->things.list[i].kind == KIND_TANK)
            make_brim(file, &file->things.list[i]);
}
