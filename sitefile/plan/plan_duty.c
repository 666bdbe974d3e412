/* Duties: marks and doses, the second condition, routes. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "../../grammar/quantity.h"
#include "../../grammar/scan.h"
#include "duty.h"

/* Whether a key is given; then what it needs must be, too. */
static bool given_with(const struct duty_making *making, const char *key,
                       const char *needed, const char *message)
{
    if (!duty_given(making, key))
        return false;
    if (!duty_given(making, needed))
        duty_wrong(making, key, message);
    return true;
}

/* Marks */

/* Whether a thing is the soil's own moisture, which water raises. */
static bool is_moisture(const struct thing *thing)
{
    if (thing->kind != KIND_SENSOR)
        return false;
    const struct value *measures = good_value(thing, "measures");
    return measures ? measures->number == 0 : value_of(thing, "dry")->given;
}

/* Whether a key of the pump names what is kept. */
static bool is_its(const struct thing *pump, const char *key,
                   const struct value *keep)
{
    const struct value *tank = good_value(pump, key);
    return tank && tank->number == keep->number;
}

static bool gives_water(const struct thing *pump)
{
    return pump->style == STYLE_PUMP || pump->style == STYLE_VALVE;
}

/* Which way the pump moves what the duty keeps, where that is known: marks the
 * other way round would run it until all is flooded or dry. */
static void check_way(const struct duty_making *making,
                      const struct value *keep, const struct value *start,
                      const struct value *stop)
{
    const struct thing *pump = making->pump;
    const struct thing *kept = &making->file->things.list[keep->number];
    struct problems *problems = &making->file->problems;
    bool up = start->number < stop->number;
    if (is_its(pump, "into", keep)) {
        if (!up)
            problem_error(problems, start->place,
                          "must be below stop, %s: %s fills %s, so it would "
                          "never stop",
                          stop->text, pump->section->name, keep->text);
    } else if (is_its(pump, "from", keep)) {
        if (up)
            problem_error(problems, start->place,
                          "must be above stop, %s: %s draws from %s, so it "
                          "would never stop",
                          stop->text, pump->section->name, keep->text);
    } else if (!up && gives_water(pump) && is_moisture(kept))
        problem_error(problems, start->place,
                      "must be below stop, %s: %s makes %s wetter, so it "
                      "would never stop",
                      stop->text, pump->section->name, keep->text);
}

/* The two marks of a duty: its own, or those that its speed gives. */
struct ends {
    const struct value *start;
    const struct value *stop;
    struct value made[2];
};

/* How many of its two marks are given. */
static int marks_given(const struct duty_making *making)
{
    return duty_given(making, "start") + duty_given(making, "stop");
}

static bool find_ends(const struct duty_making *making, struct ends *ends)
{
    struct cup_file *file = making->file;
    cup_index keep = making->duty->keep;
    bool speeds = duty_make_speed(making, &ends->made[0], &ends->made[1]);
    ends->start = &ends->made[0];
    ends->stop = &ends->made[1];
    if (marks_given(making) == 0)
        return speeds;
    ends->start = plan_mark(file, making->thing, "start", keep);
    ends->stop = plan_mark(file, making->thing, "stop", keep);
    return ends->start && ends->stop;
}

/* Which way they lie, and whether a guard comes first. */
static void check_ends(const struct duty_making *making,
                       const struct value *keep, const struct ends *ends)
{
    const struct value *start = ends->start;
    const struct value *stop = ends->stop;
    plan_check_marks(making->file, start, stop, making->duty->keep);
    if (making->pump && start->number != stop->number)
        check_way(making, keep, start, stop);
    if (making->pump && start->number < stop->number)
        plan_check_full(making->file, making->pump, keep, stop);
}

static void make_marks(const struct duty_making *making)
{
    struct cup_file *file = making->file;
    struct cup_duty *duty = making->duty;
    const struct value *keep = good_value(making->thing, "keep");
    int given = marks_given(making);
    struct ends ends;
    if (given == 1 || (given == 0 && !duty_given(making, "speed")))
        duty_wrong(making, "keep", "keep needs start and stop, its two marks");
    if (!keep) {
        plan_check_unit(file, making->thing, "start");
        plan_check_unit(file, making->thing, "stop");
        return;
    }
    duty->keep = plan_number(file, keep->number);
    duty->line = cup_thing_unit(&file->plan, duty->keep) == CUP_UNIT_PASCAL;
    if (!find_ends(making, &ends))
        return;
    duty->latch.start = ends.start->number;
    duty->latch.stop = ends.stop->number;
    check_ends(making, keep, &ends);
}

static void make_dose(const struct duty_making *making)
{
    struct cup_dose *dose = &making->file->tables.doses[making->thing->index];
    const char *key = duty_given(making, "give") ? "give" : "dose";
    if (!given_with(making, key, "soak",
                    "needs soak: how long the water takes to arrive")) {
        if (duty_given(making, "soak") || duty_given(making, "doses"))
            duty_wrong(making, duty_given(making, "soak") ? "soak" : "doses",
                       "needs dose, how long one is, or give, how much");
        return;
    }
    if (duty_given(making, "give") && duty_given(making, "dose"))
        duty_wrong(making, "give", "expected dose or give, one of them");
    dose->dose_ms = cup_most((uint32_t)number_of(making->thing, "dose", 0),
                             duty_give_ms(making));
    dose->soak_ms = (uint32_t)number_of(making->thing, "soak", 0);
    dose->doses = (uint8_t)number_of(making->thing, "doses", 0);
    if (dose->dose_ms > CUP_DAY_MS)
        duty_wrong(making, "dose",
                   "expected a day at the most: it is given at once");
    making->duty->dose = dose;
    making->duty->dose_own = making->file->plan.doses++;
}

/* "tunnel_damp 78% 61%" */
static void make_also(const struct duty_making *making)
{
    struct cup_file *file = making->file;
    struct cup_also *also = &file->tables.alsos[making->thing->index];
    const struct value *value = good_value(making->thing, "also");
    struct scanned name;
    struct scanned start;
    struct scanned stop;
    if (duty_given(making, "stops") && !duty_given(making, "also"))
        duty_wrong(making, "stops", "needs also, the second condition");
    if (!value)
        return;
    if (!scan(value->text, "* * *", &name, &start, &stop)) {
        duty_wrong(making, "also",
                   "expected THING START STOP, such as tunnel_damp 78% 61%");
        return;
    }
    also->about = plan_find_read(file, value, name.text);
    if (also->about == CUP_NONE)
        return;
    also->both_stop = number_of(making->thing, "stops", 0) == 1;
    struct value marks[2] = {*value, *value};
    enum cup_unit unit =
        (enum cup_unit)cup_thing_unit(&file->plan, also->about);
    const char *bad = quantity_read(start.text, unit, &marks[0].number);
    if (!bad)
        bad = quantity_read(stop.text, unit, &marks[1].number);
    if (bad) {
        duty_wrong(making, "also", bad);
        return;
    }
    also->latch.start = marks[0].number;
    also->latch.stop = marks[1].number;
    also->latch.confirm_ms = making->duty->latch.confirm_ms;
    plan_check_marks(file, &marks[0], &marks[1], also->about);
    making->duty->also = also;
    making->duty->also_own = file->plan.alsos++;
}

/* Routes */

static void make_through(const struct duty_making *making)
{
    struct cup_file *file = making->file;
    const struct value *value = good_value(making->thing, "through");
    cup_index *valves =
        &file->tables
             .through[(size_t)making->thing->index * file->plan.pump_count];
    struct scanned word;
    if (!value)
        return;
    making->duty->through = valves;
    for (const char *at = value->text; scan_next(&at, &word);) {
        const struct thing *valve =
            things_find(&file->things, &file->problems, value->place, word.text,
                        (const char *const[]){"valve", NULL});
        if (!valve || making->duty->through_count >= file->plan.pump_count)
            return;
        valves[making->duty->through_count++] = valve->index;
    }
    file->plan.routes++;
}

/* The duty as a whole */

/* A flood or a timed run, not a level that is kept. */
static bool is_turn(const struct duty_making *making)
{
    static const char *const keys[] = {"flood", "for", "every", "at"};
    if (duty_given(making, "give") && !duty_given(making, "keep"))
        return true;
    for (size_t i = 0; i < sizeof(keys) / sizeof(keys[0]); i++)
        if (duty_given(making, keys[i]))
            return true;
    return false;
}

static void check_kind(const struct duty_making *making, bool turns)
{
    static const char *const keeping[] = {"start",   "stop", "speed",
                                          "confirm", "also", "stops",
                                          "dose",    "soak", "doses"};
    if (duty_given(making, "keep") && turns)
        duty_wrong(making, "keep",
                   "a duty keeps a level, floods or is timed: one of them");
    if (!duty_given(making, "keep") && !turns)
        duty_wrong(
            making, NULL,
            "what is it for? expected keep, flood, or for with every or at");
    for (size_t i = 0; turns && i < sizeof(keeping) / sizeof(keeping[0]); i++)
        if (duty_given(making, keeping[i]))
            duty_wrong(making, keeping[i], "is for a duty that keeps a level");
    if (!turns && duty_given(making, "until"))
        duty_wrong(making, "until", "is for a flood or a timed run");
}

void plan_make_duty(struct cup_file *file, const struct thing *thing)
{
    struct duty_making making = {.file = file, .thing = thing};
    struct cup_duty *duty = &file->tables.duties[thing->index];
    const struct value *run = good_value(thing, "run");
    const struct value *between = good_value(thing, "between");
    making.duty = duty;
    making.pump = run ? &file->things.list[run->number] : NULL;
    duty->settings = CUP_NONE;
    duty->latch.confirm_ms = (uint32_t)number_of(thing, "confirm", 0);
    if (run)
        duty->pump = making.pump->index;
    bool turns = is_turn(&making);
    check_kind(&making, turns);
    if (turns)
        duty_make_turn(&making);
    else if (duty_given(&making, "keep")) {
        make_marks(&making);
        make_dose(&making);
        make_also(&making);
    }
    if (between && !read_hours(between->text, &duty->from, &duty->to))
        duty_wrong(&making, "between",
                   "expected HH:MM..HH:MM, such as 05:30..21:00");
    make_through(&making);
    duty_make_change(&making);
}
