/* Makes the plan of the things, and checks what needs more than one key: the
 * order of marks, what a sensor can read, what a pump must know. */
#include <math.h>
#include <stdlib.h>

#include "cuplatch/say.h"
#include "inside.h"
#include "quantity.h"

/* Duties */

struct span span_of(const struct cup_plan *plan, cup_index thing)
{
    if (thing >= plan->sensor_count)
        return (struct span){0, 10000};
    const struct cup_sensor *sensor = &plan->sensors[thing];
    if (sensor->curve->count == 0)
        return (struct span){INT32_MIN, INT32_MAX};
    int32_t one = cup_curve_value(sensor->curve, sensor->lowest);
    int32_t two = cup_curve_value(sensor->curve, sensor->highest);
    return one < two ? (struct span){one, two} : (struct span){two, one};
}

static void check_mark(struct cup_file *file, const struct value *mark,
                       struct span span, cup_index keep, bool up)
{
    char end[32];
    int32_t last = up ? span.high : span.low;
    uint8_t unit = cup_thing_unit(&file->plan, keep);
    if (up ? mark->number < last : mark->number > last)
        return;
    cup_say_value(end, sizeof(end), last, unit);
    problem_error(&file->problems, mark->place,
                  "%s never reads %s %s, so this could never be passed",
                  cup_thing_name(&file->plan, keep), up ? "above" : "below",
                  end);
}

/* Reads a mark now that its unit is known; null when that cannot be. */
static const struct value *read_mark(struct cup_file *file,
                                     const struct thing *thing, const char *key,
                                     cup_index keep)
{
    struct value *value = (struct value *)good_value(thing, key);
    enum cup_unit unit = (enum cup_unit)cup_thing_unit(&file->plan, keep);
    if (!value || unit == CUP_UNIT_NONE)
        return NULL;
    const char *wrong = quantity_read(value->text, unit, &value->number);
    if (wrong)
        problem_error(&file->problems, value->place, "%s", wrong);
    return wrong ? NULL : value;
}

static void check_marks(struct cup_file *file, const struct value *start,
                        const struct value *stop, cup_index keep)
{
    struct span span = span_of(&file->plan, keep);
    bool up = start->number < stop->number;
    if (start->number == stop->number) {
        problem_error(&file->problems, stop->place,
                      "start and stop are the same; leave a band between "
                      "them, or the pump would chatter");
        return;
    }
    check_mark(file, start, span, keep, !up);
    check_mark(file, stop, span, keep, up);
}

static void make_duty(struct cup_file *file, const struct thing *thing)
{
    struct cup_duty *duty = &file->tables.duties[thing->index];
    const struct value *keep = good_value(thing, "keep");
    const struct value *run = good_value(thing, "run");
    duty->latch.confirm_ms = (uint32_t)number_of(thing, "confirm", 0);
    if (run)
        duty->pump = file->things.list[run->number].index;
    if (!keep)
        return;
    duty->keep = plan_number(file, keep->number);
    const struct value *start = read_mark(file, thing, "start", duty->keep);
    const struct value *stop = read_mark(file, thing, "stop", duty->keep);
    if (!start || !stop)
        return;
    duty->latch.start = start->number;
    duty->latch.stop = stop->number;
    check_marks(file, start, stop, duty->keep);
    if (run && start->number < stop->number)
        plan_check_full(file, &file->things.list[run->number], keep, stop);
}

/* The whole */

static void make_site(struct cup_file *file)
{
    const struct thing *site = thing_of(&file->things, KIND_SITE, 0);
    struct cup_plan *plan = &file->plan;
    plan->layout = CUP_LAYOUT;
    plan->scan_ms = 1000;
    if (!site) {
        problem_error(&file->problems, (struct place){1, "[site]"},
                      "the file needs a [site] section");
        return;
    }
    plan->scan_ms = (uint32_t)number_of(site, "scan", 1000);
    plan->late_ms = (uint32_t)number_of(site, "late", 0);
    if (plan->late_ms == 0)
        plan->late_ms = cup_least(plan->scan_ms * 10, CUP_TIME_MAX_MS);
    plan->boot_wait_ms = (uint32_t)number_of(site, "boot_wait", 0);
    plan->at_once = (cup_index)number_of(site, "at_once", 0);
    if (good_value(site, "late") && plan->late_ms <= plan->scan_ms)
        problem_error(&file->problems, value_of(site, "late")->place,
                      "must be longer than scan, or every pass is late");
}

static void make_names(struct cup_file *file)
{
    for (size_t i = 0; i < file->things.count; i++)
        if (file->things.list[i].kind != KIND_SITE)
            file->tables.names[plan_number(file, (int32_t)i)] =
                file->things.list[i].section->name;
}

static void check_used(struct cup_file *file, const struct thing *thing)
{
    for (size_t i = 0; i < file->plan.duty_count; i++)
        if (file->plan.duties[i].pump == thing->index)
            return;
    problem_warning(&file->problems, thing->place,
                    "no duty runs it: it runs only by hand");
}

void plan_make(struct cup_file *file)
{
    static void (*const makers[])(struct cup_file *, const struct thing *) = {
        [KIND_SENSOR] = plan_make_sensor, [KIND_TANK] = plan_make_tank,
        [KIND_PUMP] = plan_make_pump,     [KIND_DUTY] = make_duty,
        [KIND_SOURCE] = plan_make_source,
    };
    plan_make_tables(file);
    make_names(file);
    make_site(file);
    plan_share(file);
    for (int kind = KIND_SENSOR; kind < KIND_COUNT; kind++)
        for (size_t i = 0; i < file->things.count; i++)
            if ((int)file->things.list[i].kind == kind)
                makers[kind](file, &file->things.list[i]);
    for (size_t i = 0; i < file->things.count; i++)
        if (file->things.list[i].kind == KIND_PUMP)
            check_used(file, &file->things.list[i]);
}
