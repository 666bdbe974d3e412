/* What is legal but odd: warned of once everything is made and right. */
#include <stdlib.h>

#include "../inside.h"
#include "cuplatch/say.h"

/* More entries of the journal in a day than this wear out any store. */
#define ENTRIES_MOST 3000

static void odd(struct cup_file *file, const struct thing *thing,
                const char *key, const char *message)
{
    const struct value *value = key ? value_of(thing, key) : NULL;
    problem_warning(&file->problems,
                    value && value->given ? value->place : thing->place, "%s",
                    message);
}

/* A run that the pump's own limits would cut short. */
static void check_run(struct cup_file *file, const struct thing *thing,
                      const struct cup_pump *pump, uint32_t run_ms,
                      const char *key)
{
    if (pump->longest_ms > 0 && run_ms >= pump->longest_ms)
        problem_error(&file->problems, value_of(thing, key)->place,
                      "must be shorter than its pump's longest, where that "
                      "trips");
    if (run_ms > 0 && run_ms < pump->shortest_ms)
        odd(file, thing, key,
            "shorter than its pump's shortest, which it runs then");
    if (pump->proof && run_ms < pump->proof->within_ms)
        odd(file, thing, key,
            "shorter than its pump's proof takes: it is judged only over "
            "several runs");
}

/* Marks that one count of raw noise would cross, or that lie within the band
 * of steady. */
static void check_band(struct cup_file *file, const struct thing *thing,
                       const struct cup_duty *duty)
{
    cup_index i = cup_thing_sensor(&file->plan, duty->keep);
    const struct cup_sensor *sensor = &file->plan.sensors[i];
    int32_t band = abs(duty->latch.start - duty->latch.stop);
    if (sensor->curve->count < 2 || duty->keep != i)
        return;
    uint16_t mid = (uint16_t)((sensor->lowest + sensor->highest) / 2);
    int32_t count = abs(cup_curve_value(sensor->curve, (uint16_t)(mid + 1)) -
                        cup_curve_value(sensor->curve, mid));
    if (band < 4 * count)
        odd(file, thing, "stop",
            "start and stop are less than four raw counts apart: noise alone "
            "would cross them");
    else if (sensor->checks && sensor->checks->steady_ms > 0 &&
             band <= sensor->checks->band)
        odd(file, thing, "stop",
            "start and stop lie within the sensor's steady band");
}

/* A source that one wrong sample could clear. */
static void check_source(struct cup_file *file, const struct thing *thing,
                         const struct cup_guard *guard)
{
    cup_index sensor = cup_thing_sensor(&file->plan, guard->about);
    const struct cup_tank *tank = cup_tank_of(&file->plan, guard->about);
    if (guard->kind != CUP_GUARD_SOURCE || tank->form == CUP_TANK_FLOATS ||
        file->plan.sensors[sensor].window.size > 2)
        return;
    const char *name = cup_thing_name(&file->plan, sensor);
    problem_warning(&file->problems, value_of(thing, "from")->place,
                    "one wrong sample of %s could start it dry: give [%s] "
                    "smooth = median 5",
                    name, name);
}

static void check_pump(struct cup_file *file, const struct thing *thing)
{
    const struct cup_pump *pump = &file->plan.pumps[thing->index];
    for (uint8_t g = 0; g < pump->guard_count; g++)
        check_source(file, thing, &pump->guards[g]);
    if (pump->longest_ms > 0 && value_of(thing, "hand_limit")->given &&
        pump->hand_limit_ms >= pump->longest_ms)
        odd(file, thing, "hand_limit",
            "not shorter than longest: a hand run that long is a trip");
}

static void check_duty(struct cup_file *file, const struct thing *thing)
{
    const struct cup_duty *duty = &file->plan.duties[thing->index];
    const struct cup_pump *pump = &file->plan.pumps[duty->pump];
    if (duty->turn)
        check_run(file, thing, pump, duty->turn->run_ms,
                  value_of(thing, "flood")->given ? "flood" : "for");
    else
        check_band(file, thing, duty);
    if (duty->dose)
        check_run(file, thing, pump, duty->dose->dose_ms, "dose");
    bool clock =
        duty->from != duty->to || (duty->turn && duty->turn->at_count > 0);
    if (clock)
        odd(file, thing, duty->from != duty->to ? "between" : "at",
            "goes by the clock: set one with site clock, or it does not "
            "count");
}

static void check_alert(struct cup_file *file, const struct thing *thing)
{
    const struct cup_alert *alert = &file->plan.alerts[thing->index];
    const struct thing *of = &file->things.list[value_of(thing, "of")->number];
    if (of->kind != KIND_TANK)
        return;
    const struct value *heel = good_value(of, "heel");
    if (heel && alert->latch.start < alert->latch.stop &&
        alert->latch.start <= heel->number)
        odd(file, thing, "below",
            "not above the tank's heel: what draws from it has stopped by "
            "then, so it may never be told");
}

/* A pump that may start every few seconds. */
static void check_wear(struct cup_file *file)
{
    uint32_t entries = plan_entries(&file->plan);
    const struct thing *site = thing_of(&file->things, KIND_SITE, 0);
    if (entries > ENTRIES_MOST && site)
        problem_warning(&file->problems, site->place,
                        "the journal may be written %u times a day, for each "
                        "start and stop of a bounded run: give its pumps a "
                        "rest, or a longer soak",
                        (unsigned)entries);
}

void plan_check_odd(struct cup_file *file)
{
    if (file->problems.errors > 0)
        return;
    check_wear(file);
    for (size_t i = 0; i < file->things.count; i++) {
        const struct thing *thing = &file->things.list[i];
        if (thing->kind == KIND_PUMP)
            check_pump(file, thing);
        if (thing->kind == KIND_DUTY)
            check_duty(file, thing);
        if (thing->kind == KIND_ALERT)
            check_alert(file, thing);
    }
}
