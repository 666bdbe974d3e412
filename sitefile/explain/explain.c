/* The plan in plain sentences: what it will do, what it will never do. */
#include <string.h>

#include "cuplatch/say.h"
#include "explain.h"

/* The others that are read through the same input. */
static void explain_channel(const struct cup_plan *plan, cup_index i, FILE *out)
{
    cup_index channel = plan->sensors[i].channel;
    const char *before = "    never powered together with ";
    if (channel == CUP_NONE)
        return;
    for (cup_index other = 0; other < plan->sensor_count; other++)
        if (other != i && plan->sensors[other].channel == channel) {
            fprintf(out, "%s%s", before, explain_name(plan, other));
            before = ", ";
        }
    fprintf(out, ", which has the same input;\n");
}

/* How it is asked. */
static void explain_asking(const struct cup_plan *plan, cup_index i, FILE *out)
{
    const struct cup_sensor *sensor = &plan->sensors[i];
    if (sensor->supply != CUP_NONE)
        fprintf(out, "    powering it only to read, for %s before;\n",
                explain_say_ms(sensor->warm_up_ms).text);
    explain_channel(plan, i, out);
    if (sensor->every_ms < plan->scan_ms)
        fprintf(out,
                "    or every %s, where a port asks once a pass: scan is "
                "longer than that;\n",
                explain_say_ms(plan->scan_ms).text);
}

/* What is made of its samples. */
static void explain_checks(const struct cup_plan *plan, cup_index i, FILE *out)
{
    const struct cup_sensor *sensor = &plan->sensors[i];
    const struct cup_checks *checks = sensor->checks;
    uint8_t unit = cup_unit_of_change(sensor->unit);
    if (sensor->air != CUP_NONE)
        fprintf(out, "    corrected by the warmth of %s;\n",
                explain_name(plan, sensor->air));
    if (!checks)
        return;
    if (checks->near > 0)
        fprintf(out,
                "    measuring nothing nearer than %s: that is full where it "
                "can be, else wrong;\n",
                explain_say(plan, checks->near, CUP_UNIT_MM).text);
    if (checks->jump_per_s > 0)
        fprintf(out, "    rejecting what moves faster than %s a second;\n",
                explain_say(plan, (int32_t)checks->jump_per_s, unit).text);
    if (checks->stuck_ms > 0)
        fprintf(out,
                "    rejecting what has not changed by one count for %s;\n",
                explain_say_ms(checks->stuck_ms).text);
    if (checks->steady_ms > 0)
        fprintf(out, "    showing what stayed within %s for %s;\n",
                explain_say(plan, checks->band, unit).text,
                explain_say_ms(checks->steady_ms).text);
}

/* "take kale for the middle of kale_a, kale_b" */
static void explain_several(const struct cup_plan *plan, cup_index i, FILE *out)
{
    static const char *const takes[] = {"mean", "lowest", "highest", "middle"};
    const struct cup_sensor *sensor = &plan->sensors[i];
    const struct cup_several *several = sensor->several;
    fprintf(out, "  take %s for the %s of", explain_name(plan, i),
            takes[several->takes]);
    for (uint8_t p = 0; p < several->count; p++)
        fprintf(out, "%s %s", p == 0 ? "" : ",",
                explain_name(plan, several->of[p]));
    fprintf(out, ", lost when fewer than %d say anything good for %s;\n",
            several->at_least, explain_say_ms(sensor->lost_after_ms).text);
    if (several->apart > 0)
        fprintf(
            out,
            "    telling of one that is farther than %s from the "
            "middle;\n",
            explain_say(plan, several->apart, cup_unit_of_change(sensor->unit))
                .text);
}

static void explain_sensor(const struct cup_file *file, cup_index i, FILE *out)
{
    if (file->plan.sensors[i].several) {
        explain_several(&file->plan, i, out);
        explain_checks(&file->plan, i, out);
        return;
    }
    const struct cup_plan *plan = &file->plan;
    const struct cup_sensor *sensor = &plan->sensors[i];
    const struct thing *thing = thing_of(&file->things, KIND_SENSOR, i);
    const struct value *smooth = value_of(thing, "smooth");
    fprintf(
        out, "  ask %s every %s, %s%s, lost when nothing good came for %s;\n",
        explain_name(&file->plan, i), explain_say_ms(sensor->every_ms).text,
        smooth->given ? "" : "as it comes", smooth->given ? smooth->text : "",
        explain_say_ms(sensor->lost_after_ms).text);
    explain_asking(&file->plan, i, out);
    explain_checks(&file->plan, i, out);
}

static void explain_floats(const struct cup_plan *plan,
                           const struct cup_tank *tank, const char *who,
                           FILE *out)
{
    fprintf(out, "  take %s for %s full once it lifts %s", who,
            explain_say(plan, tank->low_pct100, CUP_UNIT_PERCENT).text,
            explain_name(plan, tank->sensor));
    if (tank->high != CUP_NONE)
        fprintf(out, ", %s once it lifts %s",
                explain_say(plan, tank->high_pct100, CUP_UNIT_PERCENT).text,
                explain_name(plan, tank->high));
    fprintf(out, ", for empty before;\n");
}

static void explain_tank(const struct cup_file *file, cup_index i, FILE *out)
{
    const struct cup_plan *plan = &file->plan;
    const struct cup_tank *tank = &plan->tanks[i];
    const char *who = explain_name(plan, cup_tank_thing(plan, i));
    if (tank->form == CUP_TANK_FLOATS) {
        explain_floats(plan, tank, who, out);
        return;
    }
    const struct cup_knot *full = &tank->fill->knots[tank->fill->count - 1];
    double error = plan_tank_error(file, i);
    int32_t litres = cup_curve_value(tank->volume, full->x);
    struct said volume = explain_say(plan, litres, CUP_UNIT_LITRE);
    if (tank->form == CUP_TANK_DISTANCE)
        fprintf(out,
                "  take %s for empty at %s from %s and for full at %s, %s;\n",
                who, explain_say(plan, tank->top, CUP_UNIT_MM).text,
                explain_name(plan, tank->sensor),
                explain_say(plan, tank->top - full->x, CUP_UNIT_MM).text,
                volume.text);
    else
        fprintf(out, "  take %s for full at a depth of %s by %s, %s;\n", who,
                explain_say(plan, full->x * tank->step_mm10, CUP_UNIT_MM).text,
                explain_name(plan, tank->sensor), volume.text);
    if (tank->fill->count > 2)
        fprintf(out,
                "    its curve of %d points is within %.2f %% of the true "
                "shape;\n",
                tank->fill->count, error);
}

/* What each guard keeps a pump from. */
static void explain_guard(const struct cup_plan *plan, const char *who,
                          const struct cup_guard *guard, FILE *out)
{
    bool low = guard->mark < guard->clear;
    const char *about = explain_name(plan, guard->about);
    uint8_t unit = cup_thing_unit(plan, guard->about);
    fprintf(out,
            "  run %s while %s is %s %s, nor again until it is %s %s;\n"
            "  run %s while %s is lost or was never read;\n",
            who, about, low ? "below" : "above",
            explain_say(plan, guard->mark, unit).text, low ? "above" : "below",
            explain_say(plan, guard->clear, unit).text, who, about);
}

static void explain_proof(const struct cup_plan *plan, const char *who,
                          const struct cup_proof *proof, FILE *out)
{
    static const char *const verbs[] = {"rises by", "falls by", "is above"};
    uint8_t unit = CUP_UNIT_MM;
    if (proof->about < plan->sensor_count)
        unit = cup_thing_unit(plan, proof->about);
    if (proof->kind != CUP_PROOF_ABOVE)
        unit = cup_unit_of_change(unit);
    fprintf(out,
            "  run %s for more than %s in all unless %s %s %s: that is a "
            "trip, too;\n",
            who, explain_say_ms(proof->within_ms).text,
            explain_name(plan, proof->about), verbs[proof->kind],
            explain_say(plan, proof->change, unit).text);
}

static void explain_per_day(const struct cup_plan *plan, const char *who,
                            const struct cup_per_day *day, FILE *out)
{
    if (day->time_ms > 0)
        fprintf(out, "  run %s for more than %s a day;\n", who,
                explain_say_ms(day->time_ms).text);
    if (day->volume_ml > 0)
        fprintf(out, "  give more than %s a day by %s;\n",
                explain_say(plan, (int32_t)day->volume_ml, CUP_UNIT_LITRE).text,
                who);
    if (day->starts > 0)
        fprintf(out, "  start %s more than %u times a day;\n", who,
                day->starts);
}

static void explain_longest(const struct cup_plan *plan, cup_index i, FILE *out)
{
    const struct cup_pump *pump = &plan->pumps[i];
    const char *who = explain_name(plan, cup_pump_thing(plan, i));
    if (pump->longest_ms == 0)
        return;
    fprintf(out, "  run %s longer than %s: its duty trips, and ", who,
            explain_say_ms(pump->longest_ms).text);
    if (pump->retries == 0)
        fprintf(out, "stays off until cleared;\n");
    else
        fprintf(out,
                "tries again\n    after %s, at most %d time%s, then stays off "
                "until cleared;\n",
                explain_say_ms(pump->retry_ms).text, pump->retries,
                pump->retries == 1 ? "" : "s");
}

/* How much can move by the last good value of a sensor that went silent. */
static void explain_held(const struct cup_file *file, cup_index i, FILE *out)
{
    const struct cup_plan *plan = &file->plan;
    const struct thing *thing = thing_of(&file->things, KIND_PUMP, i);
    const struct value *flow = good_value(thing, "flow");
    const struct cup_pump *pump = &plan->pumps[i];
    uint32_t held = 0;
    for (uint8_t g = 0; g < pump->guard_count; g++) {
        cup_index sensor = cup_thing_sensor(plan, pump->guards[g].about);
        uint32_t ms = plan->sensors[sensor].lost_after_ms;
        if (pump->guards[g].kind < CUP_GUARD_TANKS && ms > held)
            held = ms;
    }
    if (!flow || held == 0)
        return;
    int64_t ml = (int64_t)held * flow->number / 60000;
    fprintf(out,
            "  move more than %s by %s on the last good value of a "
            "silent tank;\n",
            explain_say(plan, ml > INT32_MAX ? INT32_MAX : (int32_t)ml,
                        CUP_UNIT_LITRE)
                .text,
            explain_name(plan, cup_pump_thing(plan, i)));
}

/* The readings without which a duty does not ask. */
static void explain_needs(const struct cup_plan *plan, cup_index i,
                          const char *who, FILE *out)
{
    const struct cup_duty *duty = &plan->duties[i];
    if (duty->keep != CUP_NONE)
        fprintf(out, "  run %s for %s while %s is lost or was never read;\n",
                who, explain_name(plan, cup_duty_thing(plan, i)),
                explain_name(plan, duty->keep));
    for (uint8_t v = 0; v < duty->through_count; v++)
        fprintf(out, "  run %s for %s while %s is not open;\n", who,
                explain_name(plan, cup_duty_thing(plan, i)),
                explain_name(plan, cup_pump_thing(plan, duty->through[v])));
}

static void explain_never(const struct cup_file *file, cup_index i, FILE *out)
{
    const struct cup_plan *plan = &file->plan;
    const struct cup_pump *pump = &plan->pumps[i];
    const char *who = explain_name(plan, cup_pump_thing(plan, i));
    for (uint8_t g = 0; g < pump->guard_count; g++)
        explain_guard(plan, who, &pump->guards[g], out);
    if (pump->per_day)
        explain_per_day(plan, who, pump->per_day, out);
    if (pump->shortest_ms > 0)
        fprintf(out, "  run %s for less than %s, unless a guard says so;\n",
                who, explain_say_ms(pump->shortest_ms).text);
    if (pump->proof)
        explain_proof(plan, who, pump->proof, out);
    for (cup_index j = 0; j < plan->duty_count; j++)
        if (plan->duties[j].pump == i)
            explain_needs(plan, j, who, out);
    explain_longest(plan, i, out);
    explain_held(file, i, out);
    if (pump->rest_ms > 0)
        fprintf(out, "  start %s within %s after it stopped;\n", who,
                explain_say_ms(pump->rest_ms).text);
    fprintf(out, "  run %s by hand for more than %s at a time;\n", who,
            explain_say_ms(pump->hand_limit_ms).text);
}

static void explain_group(const struct cup_file *file, cup_index i, FILE *out)
{
    const struct cup_plan *plan = &file->plan;
    const char *before = "";
    fprintf(out, "  run more than %d of ", (int)plan->groups[i]);
    for (cup_index p = 0; p < plan->pump_count; p++)
        if (plan->pumps[p].group == i) {
            fprintf(out, "%s%s", before,
                    explain_name(plan, cup_pump_thing(plan, p)));
            before = ", ";
        }
    fprintf(out, " together;\n");
}

static void explain_site(const struct cup_file *file, FILE *out)
{
    const struct cup_plan *plan = &file->plan;
    if (plan->pump_count == 0)
        return;
    if (plan->at_once > 0)
        fprintf(out, "  run more than %d pump%s at a time;\n",
                (int)plan->at_once, plan->at_once == 1 ? "" : "s");
    for (cup_index i = 0; i < plan->group_count; i++)
        explain_group(file, i, out);
    if (plan->boot_wait_ms > 0)
        fprintf(out, "  start anything within %s after it started itself;\n",
                explain_say_ms(plan->boot_wait_ms).text);
    fprintf(out,
            "  keep a pump running when it was itself held up for more than "
            "%s.\n",
            explain_say_ms(plan->late_ms).text);
}

/* What takes time to open and shut needs power to do so. */
static void explain_power(const struct cup_plan *plan, FILE *out)
{
    const char *before = "\nA cut of the power puts every output off, and "
                         "leaves\n";
    for (cup_index i = 0; i < plan->pump_count; i++) {
        if (!plan->pumps[i].travel)
            continue;
        fprintf(out, "%s  %s %s", before,
                explain_name(plan, cup_pump_thing(plan, i)),
                plan->pumps[i].positional
                    ? "where it stands"
                    : "open if it was, unless a spring shuts it");
        before = ";\n";
    }
    if (*before == ';')
        fprintf(out, ".\n");
}

void cup_file_explain(const struct cup_file *file, FILE *out)
{
    const struct cup_plan *plan = &file->plan;
    fprintf(out, "%s, looked at every %s.\n\nThe controller will\n",
            cup_file_name(file), explain_say_ms(plan->scan_ms).text);
    for (cup_index i = 0; i < plan->sensor_count; i++)
        explain_sensor(file, i, out);
    for (cup_index i = 0; i < plan->tank_count; i++)
        explain_tank(file, i, out);
    for (cup_index i = 0; i < plan->duty_count; i++)
        explain_duty(file, i, out);
    for (cup_index i = 0; i < plan->day_count; i++)
        explain_day(plan, i, out);
    for (cup_index i = 0; i < plan->alert_count; i++)
        explain_alert(plan, i, out);
    explain_shown(file, out);
    explain_watches(plan, out);
    if (plan->pump_count == 0)
        return;
    const struct thing *site = thing_of(&file->things, KIND_SITE, 0);
    if (site && number_of(site, "watches", 0) != 0)
        fprintf(out, "  not tell of a relay that sticks, nor of a run that "
                     "outlasts its tank: watches = no.\n");
    fprintf(out, "\nIt will never\n");
    for (cup_index i = 0; i < plan->pump_count; i++)
        explain_never(file, i, out);
    explain_site(file, out);
    explain_power(plan, out);
    fprintf(out,
            "\nOn this machine its plan has %u settings that may change, "
            "and its state\nis %zu bytes.\n",
            plan->setting_count, cup_site_size(plan));
    explain_journal(plan, out);
}
