/* The tables of a plan: made as long as the file needs, and how the makers of
 * things reach into them. */
#include <stdlib.h>

#include "../inside.h"

static void *table(size_t count, size_t size)
{
    void *memory = calloc(count + 1, size);
    if (!memory)
        abort();
    return memory;
}

struct cup_curve *plan_curve(struct cup_file *file, size_t number)
{
    struct cup_curve *curve = &file->tables.curves[number];
    curve->knots = &file->tables.knots[number * CUP_CURVE_POINTS];
    return curve;
}

enum cup_error plan_make_curve(struct cup_file *file, size_t number,
                               const struct cup_point *points, uint8_t count,
                               bool clamp)
{
    struct cup_curve *curve = plan_curve(file, number);
    curve->count = count;
    curve->clamp = clamp;
    return cup_curve_make(&file->tables.knots[number * CUP_CURVE_POINTS],
                          points, count, clamp);
}

/* The number of a thing in the plan: sensors, tanks, pumps, duties. */
cup_index plan_number(const struct cup_file *file, int32_t place)
{
    const struct thing *thing = &file->things.list[place];
    size_t before = 0;
    for (int kind = KIND_SENSOR; kind < (int)thing->kind; kind++)
        before += file->things.count_of[kind];
    return (cup_index)(before + thing->index);
}

struct cup_checks *plan_checks(struct cup_file *file, cup_index index)
{
    struct cup_sensor *sensor = &file->tables.sensors[index];
    struct cup_checks *checks = &file->tables.checks[index];
    if (!sensor->checks) {
        sensor->checks = checks;
        sensor->checks_own = file->plan.checks++;
    }
    return checks;
}

static void make_duty_tables(struct cup_file *file)
{
    const size_t *count = file->things.count_of;
    struct tables *tables = &file->tables;
    struct cup_plan *plan = &file->plan;
    size_t duties = count[KIND_DUTY];
    tables->doses = table(duties, sizeof(*tables->doses));
    tables->alsos = table(duties, sizeof(*tables->alsos));
    tables->turns = table(duties, sizeof(*tables->turns));
    tables->speeds = table(duties, sizeof(*tables->speeds));
    tables->speed_points =
        table(duties * CUP_SPEED_POINTS, sizeof(*tables->speed_points));
    tables->through =
        table(duties * count[KIND_PUMP], sizeof(*tables->through));
    tables->minutes = table(duties * CUP_TIMES_MOST, sizeof(*tables->minutes));
    plan->settings = tables->settings =
        table(duties * CUP_FIELD_COUNT, sizeof(*tables->settings));
    tables->travels = table(count[KIND_PUMP], sizeof(*tables->travels));
    plan->watches = tables->watches = table(
        count[KIND_TANK] + 2 * count[KIND_PUMP], sizeof(*tables->watches));
    plan->day_count = (cup_index)count[KIND_DAY];
    plan->days = tables->days = table(count[KIND_DAY], sizeof(*tables->days));
    plan->alert_count = (cup_index)count[KIND_ALERT];
    plan->alerts = tables->alerts =
        table(count[KIND_ALERT], sizeof(*tables->alerts));
    plan->group_count = (cup_index)count[KIND_GROUP];
    plan->groups = tables->groups =
        table(count[KIND_GROUP], sizeof(*tables->groups));
    plan->bar_count = (cup_index)count[KIND_BAR];
    plan->bars = tables->bars = table(count[KIND_BAR], sizeof(*tables->bars));
    tables->nothings = table(count[KIND_SENSOR] * CUP_NOTHINGS_MOST,
                             sizeof(*tables->nothings));
    tables->marks =
        table(count[KIND_BAR] * CUP_LAMPS_MOST, sizeof(*tables->marks));
    plan->signal_count = (cup_index)count[KIND_SIGNAL];
    plan->signals = tables->signals =
        table(count[KIND_SIGNAL], sizeof(*tables->signals));
    plan->button_count = (cup_index)count[KIND_BUTTON];
    plan->buttons = tables->buttons =
        table(count[KIND_BUTTON], sizeof(*tables->buttons));
    tables->words =
        table(count[KIND_BUTTON] * CUP_BUTTON_WORDS, sizeof(*tables->words));
    plan->keys = tables->keys =
        table(file->things.count, sizeof(*tables->keys));
}

void plan_make_tables(struct cup_file *file)
{
    const size_t *count = file->things.count_of;
    struct tables *tables = &file->tables;
    struct cup_plan *plan = &file->plan;
    size_t curves = count[KIND_SENSOR] + 2 * count[KIND_TANK];
    plan->sensor_count = (cup_index)count[KIND_SENSOR];
    plan->tank_count = (cup_index)count[KIND_TANK];
    plan->pump_count = (cup_index)count[KIND_PUMP];
    plan->duty_count = (cup_index)count[KIND_DUTY];
    plan->sensors = tables->sensors =
        table(count[KIND_SENSOR], sizeof(*tables->sensors));
    tables->severals = table(count[KIND_SENSOR], sizeof(*tables->severals));
    tables->ofs =
        table(count[KIND_SENSOR] * CUP_SEVERAL_MOST, sizeof(*tables->ofs));
    plan->tanks = tables->tanks =
        table(count[KIND_TANK], sizeof(*tables->tanks));
    tables->spans = table(count[KIND_TANK], sizeof(*tables->spans));
    plan->pumps = tables->pumps =
        table(count[KIND_PUMP], sizeof(*tables->pumps));
    tables->per_days = table(count[KIND_PUMP], sizeof(*tables->per_days));
    tables->proofs = table(count[KIND_PUMP], sizeof(*tables->proofs));
    tables->guards =
        table(count[KIND_PUMP] * CUP_GUARD_COUNT, sizeof(*tables->guards));
    plan->duties = tables->duties =
        table(count[KIND_DUTY], sizeof(*tables->duties));
    plan->source_count = (cup_index)count[KIND_SOURCE];
    plan->sources = tables->sources =
        table(count[KIND_SOURCE], sizeof(*tables->sources));
    make_duty_tables(file);
    tables->checks = table(count[KIND_SENSOR], sizeof(*tables->checks));
    tables->curves = table(curves, sizeof(*tables->curves));
    tables->knots = table(curves * CUP_CURVE_POINTS, sizeof(*tables->knots));
    tables->names = table(file->things.count, sizeof(*tables->names));
    plan->names = tables->names;
}

void plan_free(struct cup_file *file)
{
    struct tables *tables = &file->tables;
    free(tables->sensors);
    free(tables->tanks);
    free(tables->spans);
    free(tables->severals);
    free(tables->ofs);
    free(tables->pumps);
    free(tables->guards);
    free(tables->proofs);
    free(tables->per_days);
    free(tables->duties);
    free(tables->sources);
    free(tables->checks);
    free(tables->curves);
    free(tables->knots);
    free(tables->names);
    free(tables->doses);
    free(tables->alsos);
    free(tables->turns);
    free(tables->speeds);
    free(tables->speed_points);
    free(tables->through);
    free(tables->minutes);
    free(tables->travels);
    free(tables->settings);
    free(tables->watches);
    free(tables->days);
    free(tables->alerts);
    free(tables->groups);
    free(tables->keys);
    free(tables->bars);
    free(tables->marks);
    free(tables->nothings);
    free(tables->signals);
    free(tables->buttons);
    free(tables->words);
}
