/* What is legal but odd: warned of once everything is made and right. */
#include <math.h>
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

/* How long a pump may run at a stretch, by its longest and what its duties ask
 * for. */
static uint32_t run_of(const struct cup_plan *plan, cup_index pump)
{
    uint32_t longest = plan->pumps[pump].longest_ms;
    uint32_t run = 0;
    for (cup_index i = 0; i < plan->duty_count; i++) {
        const struct cup_duty *duty = &plan->duties[i];
        uint32_t one = UINT32_MAX;
        if (duty->pump != pump)
            continue;
        if (duty->turn)
            one = duty->turn->run_ms;
        else if (duty->dose)
            one = duty->dose->dose_ms;
        run = cup_most(run, one);
    }
    return longest > 0 ? cup_least(run, longest) : run;
}

/* Whether a pump moves a tank, or should be proved by that sensor. */
static bool moves(const struct cup_pump *pump, cup_index tank)
{
    if (pump->proof && pump->proof->about == tank)
        return true;
    for (uint8_t g = 0; g < pump->guard_count; g++)
        if (pump->guards[g].kind < CUP_GUARD_TANKS &&
            pump->guards[g].about == tank)
            return true;
    return false;
}

/* Whether two pumps are never on at a time. */
static bool takes_turns(const struct cup_plan *plan, const struct cup_pump *a,
                        const struct cup_pump *b)
{
    bool both = a->group == b->group && a->group != CUP_NONE;
    return (plan->at_once == 1 && !a->uncounted && !b->uncounted) ||
           (both && plan->groups[a->group] == 1);
}

/* While another pump moves the tank that should tell, a proof is not judged,
 * and three such windows in a row fail. */
static void check_proof(struct cup_file *file, const struct thing *thing)
{
    const struct cup_plan *plan = &file->plan;
    const struct cup_pump *pump = &plan->pumps[thing->index];
    char run[24];
    if (!pump->proof)
        return;
    for (cup_index i = 0; i < plan->pump_count; i++) {
        const struct cup_pump *other = &plan->pumps[i];
        if (other == pump || !moves(other, pump->proof->about) ||
            takes_turns(plan, pump, other))
            continue;
        uint32_t most = run_of(plan, i);
        if (most / 3 < pump->proof->within_ms)
            continue;
        cup_say_value(run, sizeof(run), plan,
                      (int32_t)cup_least(most, INT32_MAX), CUP_UNIT_SECOND);
        problem_warning(
            &file->problems, value_of(thing, "proof")->place,
            "%s moves %s, too, %s%s: meanwhile nothing is proved, and three "
            "times in a row trips it. Prove it by a flow or a pressure, or "
            "let only one run: at_once = 1, or a group with at_once = 1",
            cup_thing_name(plan, cup_pump_thing(plan, i)),
            cup_thing_name(plan, pump->proof->about),
            most == UINT32_MAX ? "without end" : "for up to ",
            most == UINT32_MAX ? "" : run);
        return;
    }
}

/* A proof that the pump's own flow never brings: it would trip though it is
 * well. */
static void check_reach(struct cup_file *file, const struct thing *thing)
{
    const struct cup_proof *proof = file->plan.pumps[thing->index].proof;
    double flow = number_of(thing, "flow", 0);
    if (!proof || proof->kind == CUP_PROOF_ABOVE || flow <= 0 ||
        proof->about < file->plan.sensor_count)
        return;
    const struct cup_tank *tank = cup_tank_of(&file->plan, proof->about);
    double moved = plan_mm10_of_ml(tank) * flow * proof->within_ms / 60000;
    if (moved > 0 && proof->change > moved)
        problem_error(&file->problems, value_of(thing, "proof")->place,
                      "its flow moves %s by %.1f mm in that time at the most: "
                      "it would trip "
                      "though it is well; expected less, or a longer time",
                      cup_thing_name(&file->plan, proof->about), moved / 10);
}

/* A ranger alone between a pump and a dry run: where its flow is known the core
 * holds what was drawn against what it says. */
static void check_alone(struct cup_file *file, const struct thing *thing)
{
    const struct value *from = good_value(thing, "from");
    if (!from || value_of(thing, "proof")->given ||
        value_of(thing, "flow")->given)
        return;
    const struct thing *tank = &file->things.list[from->number];
    const struct value *sensor = good_value(tank, "sensor");
    if (sensor)
        problem_warning(
            &file->problems, thing->place,
            "only %s keeps it from running dry, and it may be wrong: give it a "
            "proof, or its flow, so that what it draws can be held against "
            "the level",
            file->things.list[sensor->number].section->name);
}

/* A pump that no tank and no proof would stop. */
static void check_dry(struct cup_file *file, const struct thing *thing)
{
    if (thing->style == STYLE_PUMP && !value_of(thing, "from")->given &&
        !value_of(thing, "proof")->given)
        problem_warning(&file->problems, thing->place,
                        "nothing would notice that it runs dry: give it from "
                        "with dry_below and dry_clear, or a proof of flow");
}

static void check_pump(struct cup_file *file, const struct thing *thing)
{
    const struct cup_pump *pump = &file->plan.pumps[thing->index];
    if (thing->style == STYLE_PUMP && !value_of(thing, "rest")->given)
        odd(file, thing, NULL,
            "no rest: it has 10 s between a stop and the next start. Say what "
            "its motor and its pipe need, such as rest = 1m");
    check_dry(file, thing);
    check_alone(file, thing);
    check_proof(file, thing);
    check_reach(file, thing);
    for (uint8_t g = 0; g < pump->guard_count; g++)
        check_source(file, thing, &pump->guards[g]);
    if (pump->longest_ms > 0 && value_of(thing, "hand_limit")->given &&
        pump->hand_limit_ms >= pump->longest_ms)
        odd(file, thing, "hand_limit",
            "not shorter than longest: a hand run that long is a trip");
}

/* The key that says how long one run is. */
static const char *key_of_run(const struct thing *thing)
{
    static const char *const keys[] = {"flood", "for", "dose"};
    for (size_t i = 0; i < sizeof(keys) / sizeof(keys[0]); i++)
        if (value_of(thing, keys[i])->given)
            return keys[i];
    return "give";
}

static void check_duty(struct cup_file *file, const struct thing *thing)
{
    const struct cup_duty *duty = &file->plan.duties[thing->index];
    const struct cup_pump *pump = &file->plan.pumps[duty->pump];
    if (duty->turn)
        check_run(file, thing, pump, duty->turn->run_ms, key_of_run(thing));
    else
        check_band(file, thing, duty);
    if (duty->dose)
        check_run(file, thing, pump, duty->dose->dose_ms, key_of_run(thing));
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

/* The raw value that a ranger gives for a distance: on the line that is its
 * curve, for an echo that of air at 20 C. To tens, as nobody would write more.
 */
static int raw_of(const struct cup_sensor *sensor, double mm10)
{
    const struct cup_knot *line = sensor->curve->knots;
    double rise = (double)line[1].y - line[0].y;
    double raw =
        line[0].x + (mm10 - line[0].y) * (line[1].x - line[0].x) / rise;
    int whole = (int)(raw + sensor->offset);
    return whole < 200 ? whole : whole / 10 * 10;
}

/* So much of its blanking a ranger must be heard from: what is nearer than it
 * can measure is the brim, or a spider, and no nonsense. */
#define BLIND 0.25

bool plan_range(const struct cup_file *file, const struct thing *tank, int *low,
                int *high)
{
    const struct cup_tank *plan = &file->plan.tanks[tank->index];
    const struct value *gap = good_value(tank, "gap");
    if (plan->form != CUP_TANK_DISTANCE || !gap)
        return false;
    const struct cup_sensor *sensor = &file->plan.sensors[plan->sensor];
    if (sensor->form == CUP_FORM_COUNTS || sensor->curve->count != 2)
        return false;
    const struct value *blanking = good_value(tank, "blanking");
    *low =
        raw_of(sensor, blanking ? blanking->number * BLIND : gap->number * 0.8);
    *high = raw_of(sensor, plan->top * 1.2);
    return true;
}

/* A plausible that hides the brim: a full tank would be lost, and a spider as
 * well. */
static void check_blind(struct cup_file *file, const struct thing *tank,
                        const struct value *plausible, int low)
{
    const struct cup_tank *plan = &file->plan.tanks[tank->index];
    const struct cup_sensor *sensor = &file->plan.sensors[plan->sensor];
    if (!sensor->checks || sensor->checks->near <= 0 ||
        cup_curve_value(sensor->curve, sensor->lowest) <=
            sensor->checks->near * BLIND + 1)
        return;
    problem_error(
        &file->problems, plausible->place,
        "hides what is nearer than the blanking of %s: a full tank would "
        "be lost; expected it to begin at %d or below",
        tank->section->name, low);
}

/* A ranger that takes the echo of a rim, or of nothing, for water: it is told
 * what it can read over this tank. */
static void check_ranger(struct cup_file *file, const struct thing *thing)
{
    const struct value *sensor = good_value(thing, "sensor");
    int low;
    int high;
    if (!sensor || !plan_range(file, thing, &low, &high))
        return;
    const struct thing *ranger = &file->things.list[sensor->number];
    const struct value *plausible = value_of(ranger, "plausible");
    if (plausible->given) {
        check_blind(file, thing, plausible, low);
        return;
    }
    problem_warning(&file->problems, ranger->place,
                    "without plausible, an echo of the rim or of nothing may "
                    "pass for water; over %s it reads within plausible = "
                    "%d..%d",
                    thing->section->name, low, high);
}

/* What an echo is off by where the air is not at the 20 C that it is taken for:
 * the speed of sound goes by the root of the absolute temperature. */
static double off_at(double celsius)
{
    return sqrt((20 + 273.15) / (celsius + 273.15)) - 1;
}

/* A ranger without a thermometer: how far off its level may be, in per cent of
 * the depth, from a night of frost to a hot lid. */
static void check_air(struct cup_file *file, const struct thing *thing)
{
    const struct cup_tank *tank = &file->plan.tanks[thing->index];
    const struct value *of = good_value(thing, "sensor");
    if (tank->form != CUP_TANK_DISTANCE || !of)
        return;
    const struct cup_sensor *sensor = &file->plan.sensors[tank->sensor];
    if (sensor->form != CUP_FORM_ECHO || sensor->air != CUP_NONE)
        return;
    const struct thing *ranger = &file->things.list[of->number];
    double depth = tank->top - number_of(thing, "gap", 0);
    double away = 100.0 * tank->top / depth;
    problem_warning(
        &file->problems, ranger->place,
        "without air, its echo goes by 20 C: near the floor %s reads "
        "%.0f %% of its depth too low at -10 C, and %.0f %% too "
        "high at 40 C; give it air, the thermometer beside it",
        thing->section->name, away * off_at(-10), away * -off_at(40));
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
        if (thing->kind == KIND_TANK) {
            check_ranger(file, thing);
            check_air(file, thing);
        }
        if (thing->kind == KIND_PUMP)
            check_pump(file, thing);
        if (thing->kind == KIND_DUTY)
            check_duty(file, thing);
        if (thing->kind == KIND_ALERT)
            check_alert(file, thing);
    }
}
