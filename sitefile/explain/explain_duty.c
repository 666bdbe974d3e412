/* What duties, days, alerts and watches will do, in plain sentences. */
#include "explain.h"

#include <string.h>

#include "cuplatch/say.h"

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

struct said explain_say(const struct cup_plan *plan, int32_t value,
                        uint8_t unit)
{
    struct said said = {""};
    cup_say_value(said.text, sizeof(said.text), plan, value, unit);
    trim_zeros(said.text);
    return said;
}

struct said explain_say_ms(uint32_t ms)
{
    return explain_say(NULL, (int32_t)ms, CUP_UNIT_SECOND);
}

const char *explain_name(const struct cup_plan *plan, cup_index thing)
{
    return cup_thing_name(plan, thing);
}

/* Duties */

static const char *pump_of(const struct cup_plan *plan,
                           const struct cup_duty *duty)
{
    return explain_name(plan, cup_pump_thing(plan, duty->pump));
}

/* "tunnel_air is above 27 C" */
static void past(const struct cup_plan *plan, cup_index about, bool above,
                 int32_t mark, FILE *out)
{
    fprintf(out, "%s is %s %s", explain_name(plan, about),
            above ? "above" : "below",
            explain_say(plan, mark, cup_thing_unit(plan, about)).text);
}

/* "header is below 35 %", and what else must be, for a start or for a stop. */
static void explain_mark(const struct cup_plan *plan,
                         const struct cup_duty *duty, bool stop, FILE *out)
{
    bool up = duty->latch.start < duty->latch.stop;
    const struct cup_also *also = duty->also;
    past(plan, duty->keep, up == stop,
         stop ? duty->latch.stop : duty->latch.start, out);
    if (!also)
        return;
    fprintf(out, " %s ", stop && !also->both_stop ? "or" : "and");
    up = also->latch.start < also->latch.stop;
    past(plan, also->about, up == stop,
         stop ? also->latch.stop : also->latch.start, out);
}

/* How long a duty's runs are, "37 s, 25 ml" where its pump's flow is known. */
static void explain_run(const struct cup_file *file,
                        const struct cup_duty *duty, uint32_t ms, FILE *out)
{
    const struct thing *pump = thing_of(&file->things, KIND_PUMP, duty->pump);
    int64_t ml = (int64_t)ms * number_of(pump, "flow", 0) / 60000;
    fprintf(out, "%s", explain_say_ms(ms).text);
    if (ml > 0 && ml <= INT32_MAX)
        fprintf(out, ", %s,",
                explain_say(&file->plan, (int32_t)ml, CUP_UNIT_LITRE).text);
}

static void explain_dose(const struct cup_file *file,
                         const struct cup_duty *duty, FILE *out)
{
    const struct cup_dose *dose = duty->dose;
    fprintf(out, ",\n    a dose of ");
    explain_run(file, duty, dose->dose_ms, out);
    fprintf(out, " at a time, looking again %s after each",
            explain_say_ms(dose->soak_ms).text);
    if (dose->doses == 0)
        return;
    fprintf(out,
            ";\n    after %d that bring less than a tenth of the way, or "
            "%d in all, it gives up\n    and says so, until it is past "
            "stop or cleared;\n    in any 24 h it gives at most %d, ",
            dose->doses, dose->doses * 4, dose->doses * 4);
    explain_run(file, duty, dose->dose_ms * dose->doses * 4, out);
    fprintf(out, " then nothing until cleared");
}

/* "at 40 % of it when header is at 34 %, 100 % at 20 %" */
static void explain_speed(const struct cup_plan *plan,
                          const struct cup_duty *duty, FILE *out)
{
    uint8_t unit = cup_thing_unit(plan, duty->keep);
    for (uint8_t i = 0; i < duty->speed->count; i++) {
        const struct cup_speed_point *point = &duty->speed->points[i];
        fprintf(out, "%s%s at %s", i == 0 ? ",\n    driven " : ", ",
                explain_say(plan, point->place_pct100, CUP_UNIT_PERCENT).text,
                explain_say(plan, point->at, unit).text);
    }
    fprintf(out, " and in between");
}

static void explain_keep(const struct cup_file *file,
                         const struct cup_duty *duty, FILE *out)
{
    const struct cup_plan *plan = &file->plan;
    fprintf(out, "start %s when ", pump_of(plan, duty));
    explain_mark(plan, duty, false, out);
    fprintf(out, ",\n    and stop it when ");
    explain_mark(plan, duty, true, out);
    if (duty->speed)
        explain_speed(plan, duty, out);
    if (duty->latch.confirm_ms > 0)
        fprintf(out, ",\n    either once that has held for %s",
                explain_say_ms(duty->latch.confirm_ms).text);
    if (duty->dose)
        explain_dose(file, duty, out);
}

static void explain_when(const struct cup_plan *plan,
                         const struct cup_turn *turn, FILE *out)
{
    if (turn->day != CUP_NONE)
        fprintf(out, " when %s says dawn, and then",
                explain_name(plan, cup_day_thing(plan, turn->day)));
    if (turn->every_ms > 0)
        fprintf(out, " every %s", explain_say_ms(turn->every_ms).text);
    if (turn->day != CUP_NONE)
        fprintf(out, " by day");
    for (uint8_t i = 0; i < turn->at_count; i++)
        fprintf(out, "%s%02d:%02d", i == 0 ? " at " : ", ", turn->at[i] / 60,
                turn->at[i] % 60);
    if (turn->apart_ms > 0)
        fprintf(out, ",\n    never further apart than %s, day or night",
                explain_say_ms(turn->apart_ms).text);
    uint32_t least = cup_turn_least(turn);
    if (least > 0)
        fprintf(out, "%s never closer together than %s",
                turn->apart_ms > 0 ? "\n    and" : ",\n   ",
                explain_say_ms(least).text);
}

static void explain_turn(const struct cup_file *file,
                         const struct cup_duty *duty, FILE *out)
{
    const struct cup_plan *plan = &file->plan;
    const struct cup_turn *turn = duty->turn;
    fprintf(out, "run %s for ", pump_of(plan, duty));
    explain_run(file, duty, turn->run_ms, out);
    explain_when(plan, turn, out);
    if (turn->owed_ms > 0)
        fprintf(out,
                ",\n    and what could not begin is owed for %s, then missed",
                explain_say_ms(turn->owed_ms).text);
    if (turn->until == CUP_NONE)
        return;
    fprintf(out, ",\n    less once ");
    if (cup_thing_unit(plan, turn->until) == CUP_UNIT_CONTACT)
        fprintf(out, "%s closes", explain_name(plan, turn->until));
    else
        past(plan, turn->until, true, turn->until_above, out);
}

void explain_duty(const struct cup_file *file, cup_index i, FILE *out)
{
    const struct cup_plan *plan = &file->plan;
    const struct cup_duty *duty = &plan->duties[i];
    fprintf(out, "  %s: ", explain_name(plan, cup_duty_thing(plan, i)));
    if (duty->turn)
        explain_turn(file, duty, out);
    else
        explain_keep(file, duty, out);
    for (uint8_t v = 0; v < duty->through_count; v++)
        fprintf(out, "%s%s", v == 0 ? ",\n    through " : " and ",
                explain_name(plan, cup_pump_thing(plan, duty->through[v])));
    if (duty->from != duty->to)
        fprintf(out, ",\n    only from %02d:%02d to %02d:%02d by the clock",
                duty->from / 60, duty->from % 60, duty->to / 60, duty->to % 60);
    fprintf(out, ".\n");
}

/* Days and alerts */

void explain_day(const struct cup_plan *plan, cup_index i, FILE *out)
{
    const struct cup_day *day = &plan->days[i];
    fprintf(out, "  take it for day in %s",
            explain_name(plan, cup_day_thing(plan, i)));
    if (day->light != CUP_NONE) {
        fprintf(out, " when ");
        past(plan, day->light, true, day->latch.start, out);
        fprintf(
            out, " for %s, for night when it is below %s for as long",
            explain_say_ms(day->latch.confirm_ms).text,
            explain_say(plan, day->latch.stop, cup_thing_unit(plan, day->light))
                .text);
    }
    if (day->from != day->to)
        fprintf(out, "%s from %02d:%02d to %02d:%02d by the clock",
                day->light == CUP_NONE ? "" : ",\n    and", day->from / 60,
                day->from % 60, day->to / 60, day->to % 60);
    fprintf(out, ".\n");
}

void explain_alert(const struct cup_plan *plan, cup_index i, FILE *out)
{
    const struct cup_alert *alert = &plan->alerts[i];
    bool low = alert->latch.start < alert->latch.stop;
    fprintf(out, "  tell of %s when ",
            explain_name(plan, cup_alert_thing(plan, i)));
    past(plan, alert->about, !low, alert->latch.start, out);
    if (alert->latch.confirm_ms > 0)
        fprintf(out, " for %s", explain_say_ms(alert->latch.confirm_ms).text);
    if (alert->repeat_ms > 0)
        fprintf(out, ", again every %s", explain_say_ms(alert->repeat_ms).text);
    fprintf(out, ", and that it is over when ");
    past(plan, alert->about, low, alert->latch.stop, out);
    fprintf(out, ".\n");
}

/* Watches */

static void explain_watch(const struct cup_plan *plan,
                          const struct cup_watch *watch, FILE *out)
{
    static const char *const ways[] = {"falls", "rises", "is above"};
    const char *about = explain_name(plan, watch->about);
    uint8_t unit = watch->way == CUP_WATCH_ABOVE
                       ? cup_thing_unit(plan, watch->about)
                       : CUP_UNIT_MM;
    if (watch->kind == CUP_WATCH_VOLUME) {
        fprintf(out, "  tell when %s runs longer than %s could have lasted.\n",
                explain_name(plan, cup_pump_thing(plan, watch->pump)), about);
        return;
    }
    fprintf(out, "  tell when %s %s %s in %s though ", about, ways[watch->way],
            explain_say(plan, watch->change, unit).text,
            explain_say_ms(watch->within_ms).text);
    if (watch->kind == CUP_WATCH_LEAK)
        fprintf(out, "nothing runs.\n");
    else
        fprintf(out, "%s is off.\n",
                explain_name(plan, cup_pump_thing(plan, watch->pump)));
}

void explain_watches(const struct cup_plan *plan, FILE *out)
{
    for (cup_index i = 0; i < plan->watch_count; i++)
        explain_watch(plan, &plan->watches[i], out);
}
