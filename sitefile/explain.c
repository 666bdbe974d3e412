/* The plan in plain sentences: what it will do, what it will never do. */
#include <string.h>

#include "cuplatch/say.h"
#include "inside.h"

struct said {
    char text[40];
};

/* "34.00 %" into "34 %": a grower's own numbers, as they were written. */
static void trim_zeros(char *text)
{
    char *point = strchr(text, '.');
    if (!point)
        return;
    char *end = point + strspn(point + 1, "0123456789") + 1;
    char *last = end;
    while (last[-1] == '0')
        last--;
    if (last - 1 == point)
        last--;
    memmove(last, end, strlen(end) + 1);
}

static struct said say(int32_t value, uint8_t unit)
{
    struct said said = {""};
    cup_say_value(said.text, sizeof(said.text), value, unit);
    trim_zeros(said.text);
    return said;
}

static struct said say_ms(uint32_t ms)
{
    return say((int32_t)ms, CUP_UNIT_SECOND);
}

static const char *name(const struct cup_plan *plan, cup_index thing)
{
    return cup_thing_name(plan, thing);
}

static void explain_checks(const struct cup_plan *plan, cup_index i, FILE *out)
{
    const struct cup_sensor *sensor = &plan->sensors[i];
    const struct cup_checks *checks = sensor->checks;
    if (sensor->supply != CUP_NONE)
        fprintf(out, "    powering it only to read, for %s before;\n",
                say_ms(sensor->warm_up_ms).text);
    if (sensor->air != CUP_NONE)
        fprintf(out, "    corrected by the warmth of %s;\n",
                name(plan, sensor->air));
    if (checks && checks->jump_per_s > 0)
        fprintf(out, "    rejecting what moves faster than %s a second;\n",
                say((int32_t)checks->jump_per_s, sensor->unit).text);
    if (checks && checks->stuck_ms > 0)
        fprintf(out, "    and what has not changed by one count for %s;\n",
                say_ms(checks->stuck_ms).text);
    if (checks && checks->steady_ms > 0)
        fprintf(out, "    showing what stayed within %s for %s;\n",
                say(checks->band, sensor->unit).text,
                say_ms(checks->steady_ms).text);
}

static void explain_sensor(const struct cup_file *file, cup_index i, FILE *out)
{
    const struct cup_sensor *sensor = &file->plan.sensors[i];
    const struct thing *thing = thing_of(&file->things, KIND_SENSOR, i);
    const struct value *smooth = value_of(thing, "smooth");
    fprintf(
        out, "  ask %s every %s, %s%s, lost when nothing good came for %s;\n",
        name(&file->plan, i), say_ms(sensor->every_ms).text,
        smooth->given ? "" : "as it comes", smooth->given ? smooth->text : "",
        say_ms(sensor->lost_after_ms).text);
    explain_checks(&file->plan, i, out);
}

static void explain_tank(const struct cup_file *file, cup_index i, FILE *out)
{
    const struct cup_plan *plan = &file->plan;
    const struct cup_tank *tank = &plan->tanks[i];
    const struct cup_knot *full = &tank->fill->knots[tank->fill->count - 1];
    const char *who = name(plan, cup_tank_thing(plan, i));
    double error = plan_tank_error(file, i);
    int32_t litres = cup_curve_value(tank->volume, full->x);
    struct said volume = say((litres + 500) / 1000 * 1000, CUP_UNIT_LITRE);
    if (tank->form == CUP_TANK_DISTANCE)
        fprintf(out,
                "  take %s for empty at %s from %s and for full at %s, %s;\n",
                who, say(tank->top, CUP_UNIT_MM).text, name(plan, tank->sensor),
                say(tank->top - full->x, CUP_UNIT_MM).text, volume.text);
    else
        fprintf(out, "  take %s for full at a depth of %s by %s, %s;\n", who,
                say(full->x * tank->step_mm10, CUP_UNIT_MM).text,
                name(plan, tank->sensor), volume.text);
    if (tank->fill->count > 2)
        fprintf(out,
                "    its curve of %d points is within %.2f %% of the true "
                "shape;\n",
                tank->fill->count, error);
}

static void explain_duty(const struct cup_plan *plan, cup_index i, FILE *out)
{
    const struct cup_duty *duty = &plan->duties[i];
    uint8_t unit = cup_thing_unit(plan, duty->keep);
    bool up = duty->latch.start < duty->latch.stop;
    const char *keep = name(plan, duty->keep);
    fprintf(out, "  start %s when %s is %s %s, and stop it when %s is %s %s",
            name(plan, cup_pump_thing(plan, duty->pump)), keep,
            up ? "below" : "above", say(duty->latch.start, unit).text, keep,
            up ? "above" : "below", say(duty->latch.stop, unit).text);
    if (duty->latch.confirm_ms > 0)
        fprintf(out, ",\n    either once that has held for %s",
                say_ms(duty->latch.confirm_ms).text);
    fprintf(out, ".\n");
}

/* What each guard keeps a pump from, in the words of its kind. */
static void explain_guard(const struct cup_plan *plan, const char *who,
                          const struct cup_guard *guard, FILE *out)
{
    static const char *const until[CUP_GUARD_COUNT] = {
        [CUP_GUARD_SOURCE] = "below %s, nor again until it is above %s",
        [CUP_GUARD_DESTINATION] = "above %s, nor again until it is below %s",
        [CUP_GUARD_SUPPLY] = "below %s, nor again until it is above %s",
    };
    const char *about = name(plan, guard->about);
    uint8_t unit = cup_thing_unit(plan, guard->about);
    fprintf(out, "  run %s while %s is ", who, about);
    fprintf(out, until[guard->kind], say(guard->mark, unit).text,
            say(guard->clear, unit).text);
    fprintf(out, ";\n  run %s while %s is lost or was never read;\n", who,
            about);
}

static void explain_proof(const struct cup_plan *plan, const char *who,
                          const struct cup_proof *proof, FILE *out)
{
    static const char *const verbs[] = {"rises", "falls", "is above"};
    uint8_t unit = proof->kind == CUP_PROOF_ABOVE
                       ? cup_thing_unit(plan, proof->about)
                       : CUP_UNIT_MM;
    fprintf(out,
            "  run %s for more than %s in all unless %s %s %s: that is a "
            "trip, too;\n",
            who, say_ms(proof->within_ms).text, name(plan, proof->about),
            verbs[proof->kind], say(proof->change, unit).text);
}

static void explain_day(const char *who, const struct cup_day *day, FILE *out)
{
    if (day->time_ms > 0)
        fprintf(out, "  run %s for more than %s a day;\n", who,
                say_ms(day->time_ms).text);
    if (day->volume_ml > 0)
        fprintf(out, "  give more than %s a day by %s;\n",
                say((int32_t)day->volume_ml, CUP_UNIT_LITRE).text, who);
    if (day->starts > 0)
        fprintf(out, "  start %s more than %u times a day;\n", who,
                day->starts);
}

static void explain_longest(const struct cup_plan *plan, cup_index i, FILE *out)
{
    const struct cup_pump *pump = &plan->pumps[i];
    const char *who = name(plan, cup_pump_thing(plan, i));
    if (pump->longest_ms == 0)
        return;
    fprintf(out, "  run %s longer than %s: that is a trip, and %s ", who,
            say_ms(pump->longest_ms).text, who);
    if (pump->retries == 0)
        fprintf(out, "stays off until cleared;\n");
    else
        fprintf(out,
                "tries again\n    after %s, at most %d time%s, then stays off "
                "until cleared;\n",
                say_ms(pump->retry_ms).text, pump->retries,
                pump->retries == 1 ? "" : "s");
}

static void explain_never(const struct cup_plan *plan, cup_index i, FILE *out)
{
    const struct cup_pump *pump = &plan->pumps[i];
    const char *who = name(plan, cup_pump_thing(plan, i));
    for (uint8_t g = 0; g < pump->guard_count; g++)
        explain_guard(plan, who, &pump->guards[g], out);
    if (pump->day)
        explain_day(who, pump->day, out);
    if (pump->shortest_ms > 0)
        fprintf(out, "  run %s for less than %s, unless a guard says so;\n",
                who, say_ms(pump->shortest_ms).text);
    if (pump->proof)
        explain_proof(plan, who, pump->proof, out);
    for (cup_index j = 0; j < plan->duty_count; j++)
        if (plan->duties[j].pump == i)
            fprintf(out, "  water by %s while %s is lost or was never read;\n",
                    who, name(plan, plan->duties[j].keep));
    explain_longest(plan, i, out);
    if (pump->rest_ms > 0)
        fprintf(out, "  start %s within %s after it stopped;\n", who,
                say_ms(pump->rest_ms).text);
    fprintf(out, "  run %s by hand for more than %s at a time;\n", who,
            say_ms(pump->hand_limit_ms).text);
}

static void explain_site(const struct cup_plan *plan, FILE *out)
{
    if (plan->pump_count == 0)
        return;
    if (plan->at_once > 0)
        fprintf(out, "  run more than %d pumps together;\n",
                (int)plan->at_once);
    if (plan->boot_wait_ms > 0)
        fprintf(out, "  start anything within %s after it started itself;\n",
                say_ms(plan->boot_wait_ms).text);
    fprintf(out,
            "  keep a pump running when it was itself held up for more than "
            "%s.\n",
            say_ms(plan->late_ms).text);
}

void cup_file_explain(const struct cup_file *file, FILE *out)
{
    const struct cup_plan *plan = &file->plan;
    fprintf(out, "%s, looked at every %s.\n\nThe controller will\n",
            cup_file_name(file), say_ms(plan->scan_ms).text);
    for (cup_index i = 0; i < plan->sensor_count; i++)
        explain_sensor(file, i, out);
    for (cup_index i = 0; i < plan->tank_count; i++)
        explain_tank(file, i, out);
    for (cup_index i = 0; i < plan->duty_count; i++)
        explain_duty(plan, i, out);
    if (plan->pump_count == 0)
        return;
    fprintf(out, "\nIt will never\n");
    for (cup_index i = 0; i < plan->pump_count; i++)
        explain_never(plan, i, out);
    explain_site(plan, out);
}
