/* Marks: read in the unit of what they are compared with, and held to what that
 * can show. */
#include <stdio.h>
#include <string.h>

#include "../../grammar/quantity.h"
#include "../../grammar/scan.h"
#include "../inside.h"
#include "cuplatch/say.h"

static struct span ordered(int32_t one, int32_t two)
{
    return one < two ? (struct span){one, two} : (struct span){two, one};
}

static struct span span_of_sensor(const struct cup_sensor *sensor)
{
    if (sensor->curve->count == 0)
        return (struct span){INT32_MIN, INT32_MAX};
    return ordered(cup_curve_value(sensor->curve, sensor->lowest),
                   cup_curve_value(sensor->curve, sensor->highest));
}

/* Floats show no more than where the highest of them is; a sensor what it can
 * say, through how it is mounted and the tank's shape. A ranger that has a
 * blanking shows the brim by that. */
static struct span span_of_tank(const struct cup_plan *plan,
                                const struct cup_tank *tank)
{
    if (tank->form == CUP_TANK_FLOATS)
        return (struct span){0, tank->high == CUP_NONE ? tank->low_pct100
                                                       : tank->high_pct100};
    const struct cup_sensor *sensor = &plan->sensors[tank->sensor];
    if (!tank->fill || tank->fill->count < 2 || sensor->curve->count == 0 ||
        sensor->air != CUP_NONE)
        return (struct span){0, CUP_TANK_FULL};
    struct span says = span_of_sensor(sensor);
    struct span span = ordered(cup_tank_fill_pct100(tank, says.low),
                               cup_tank_fill_pct100(tank, says.high));
    if (sensor->checks && sensor->checks->near > 0)
        span.high = CUP_TANK_FULL;
    return span;
}

struct span span_of(const struct cup_plan *plan, cup_index thing)
{
    return thing < plan->sensor_count
               ? span_of_sensor(&plan->sensors[thing])
               : span_of_tank(plan, &plan->tanks[thing - plan->sensor_count]);
}

void plan_check_mark(struct cup_file *file, const struct value *mark,
                     cup_index about, bool up)
{
    char end[32];
    struct span span = span_of(&file->plan, about);
    int32_t last = up ? span.high : span.low;
    uint8_t unit = cup_thing_unit(&file->plan, about);
    if (up ? mark->number < last : mark->number > last)
        return;
    cup_say_value(end, sizeof(end), &file->plan, last, unit);
    problem_error(&file->problems, mark->place,
                  "%s never reads %s %s, so this could never be passed",
                  cup_thing_name(&file->plan, about), up ? "above" : "below",
                  end);
}

const struct value *plan_mark(struct cup_file *file, const struct thing *thing,
                              const char *key, cup_index about)
{
    struct value *value = (struct value *)good_value(thing, key);
    enum cup_unit unit = (enum cup_unit)cup_thing_unit(&file->plan, about);
    if (!value || unit == CUP_UNIT_NONE)
        return NULL;
    const char *wrong = quantity_read(value->text, unit, &value->number);
    if (wrong)
        problem_error(&file->problems, value->place, "%s", wrong);
    return wrong ? NULL : value;
}

void plan_check_unit(struct cup_file *file, const struct thing *thing,
                     const char *key)
{
    const struct value *value = good_value(thing, key);
    if (value && quantity_is_bare(value->text))
        problem_error(&file->problems, value->place,
                      "needs a unit, such as %s%% or %smm; only raw counts "
                      "have none",
                      value->text, value->text);
}

void plan_check_units(struct cup_file *file, const struct value *value)
{
    struct scanned word;
    if (!value)
        return;
    for (const char *at = value->text; scan_next(&at, &word);)
        if (quantity_is_bare(word.text))
            problem_error(&file->problems, value->place,
                          "\"%s\" needs a unit; only raw counts have none",
                          word.text);
}

void plan_check_marks(struct cup_file *file, const struct value *start,
                      const struct value *stop, cup_index about)
{
    bool up = start->number < stop->number;
    if (start->number == stop->number) {
        problem_error(&file->problems, stop->place,
                      "start and stop are the same; leave a band between "
                      "them, or the pump would chatter");
        return;
    }
    plan_check_mark(file, start, about, !up);
    plan_check_mark(file, stop, about, up);
}

cup_index plan_find_read(struct cup_file *file, const struct value *value,
                         const char *name)
{
    const struct thing *found =
        things_find(&file->things, &file->problems, value->place, name,
                    (const char *const[]){"sensor", "tank", NULL});
    if (found)
        return plan_number(file, (int32_t)(found - file->things.list));
    plan_check_units(file, value);
    return CUP_NONE;
}
