/* Duties: marks and doses, floods and times, the second condition, routes, and
 * which of their numbers may be changed. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "../../grammar/quantity.h"
#include "../../grammar/scan.h"
#include "../inside.h"

/* A duty in the making. */
struct duty_making {
    struct cup_file *file;
    const struct thing *thing;
    struct cup_duty *duty;
    const struct thing *pump; /* null: not known */
};

static bool given(const struct duty_making *making, const char *key)
{
    return value_of(making->thing, key)->given;
}

static void wrong(const struct duty_making *making, const char *key,
                  const char *message)
{
    struct place place = making->thing->place;
    if (key && given(making, key))
        place = value_of(making->thing, key)->place;
    problem_error(&making->file->problems, place, "%s", message);
}

/* Whether a key is given; then what it needs must be, too. */
static bool given_with(const struct duty_making *making, const char *key,
                       const char *needed, const char *message)
{
    if (!given(making, key))
        return false;
    if (!given(making, needed))
        wrong(making, key, message);
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

static void make_marks(const struct duty_making *making)
{
    struct cup_file *file = making->file;
    struct cup_duty *duty = making->duty;
    const struct value *keep = good_value(making->thing, "keep");
    if (!given(making, "start") || !given(making, "stop"))
        wrong(making, "keep", "keep needs start and stop, its two marks");
    if (!keep) {
        plan_check_unit(file, making->thing, "start");
        plan_check_unit(file, making->thing, "stop");
        return;
    }
    duty->keep = plan_number(file, keep->number);
    duty->line = cup_thing_unit(&file->plan, duty->keep) == CUP_UNIT_PASCAL;
    const struct value *start =
        plan_mark(file, making->thing, "start", duty->keep);
    const struct value *stop =
        plan_mark(file, making->thing, "stop", duty->keep);
    if (!start || !stop)
        return;
    duty->latch.start = start->number;
    duty->latch.stop = stop->number;
    plan_check_marks(file, start, stop, duty->keep);
    if (making->pump && start->number != stop->number)
        check_way(making, keep, start, stop);
    if (making->pump && start->number < stop->number)
        plan_check_full(file, making->pump, keep, stop);
}

static void make_dose(const struct duty_making *making)
{
    struct cup_dose *dose = &making->file->tables.doses[making->thing->index];
    if (!given_with(making, "dose", "soak",
                    "needs soak: how long the water takes to arrive")) {
        if (given(making, "soak") || given(making, "doses"))
            wrong(making, given(making, "soak") ? "soak" : "doses",
                  "needs dose: how long one is");
        return;
    }
    dose->dose_ms = (uint32_t)number_of(making->thing, "dose", 0);
    dose->soak_ms = (uint32_t)number_of(making->thing, "soak", 0);
    dose->doses = (uint8_t)number_of(making->thing, "doses", 0);
    if (dose->dose_ms > CUP_DAY_MS)
        wrong(making, "dose",
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
    if (given(making, "stops") && !given(making, "also"))
        wrong(making, "stops", "needs also, the second condition");
    if (!value)
        return;
    if (!scan(value->text, "* * *", &name, &start, &stop)) {
        wrong(making, "also",
              "expected THING START STOP, such as tunnel_damp 78% 61%");
        return;
    }
    const struct thing *about =
        things_find(&file->things, &file->problems, value->place, name.text,
                    (const char *const[]){"sensor", "tank", NULL});
    if (!about) {
        plan_check_units(file, value);
        return;
    }
    also->about = plan_number(file, (int32_t)(about - file->things.list));
    also->both_stop = number_of(making->thing, "stops", 0) == 1;
    struct value marks[2] = {*value, *value};
    enum cup_unit unit =
        (enum cup_unit)cup_thing_unit(&file->plan, also->about);
    const char *bad = quantity_read(start.text, unit, &marks[0].number);
    if (!bad)
        bad = quantity_read(stop.text, unit, &marks[1].number);
    if (bad) {
        wrong(making, "also", bad);
        return;
    }
    also->latch.start = marks[0].number;
    also->latch.stop = marks[1].number;
    also->latch.confirm_ms = making->duty->latch.confirm_ms;
    plan_check_marks(file, &marks[0], &marks[1], also->about);
    making->duty->also = also;
    making->duty->also_own = file->plan.alsos++;
}

/* Floods and times */

static void make_at(const struct duty_making *making, struct cup_turn *turn)
{
    const struct value *value = good_value(making->thing, "at");
    uint16_t *minutes =
        &making->file->tables
             .minutes[(size_t)making->thing->index * CUP_TIMES_MOST];
    struct scanned word;
    if (!value)
        return;
    turn->at = minutes;
    for (const char *at = value->text; scan_next(&at, &word);) {
        uint16_t minute;
        if (turn->at_count == CUP_TIMES_MOST ||
            !read_minute(word.text, &minute)) {
            wrong(making, "at",
                  "expected up to 24 times of the clock, such as 06:30 18:10");
            return;
        }
        minutes[turn->at_count++] = minute;
    }
}

/* "tray_float", or "tray above 80%" */
static void make_until(const struct duty_making *making, struct cup_turn *turn)
{
    struct cup_file *file = making->file;
    const struct value *value = good_value(making->thing, "until");
    struct scanned name;
    struct scanned mark = {""};
    if (!value)
        return;
    bool plain = scan(value->text, "*", &name);
    if (!plain && !scan(value->text, "* above *", &name, &mark)) {
        wrong(making, "until",
              "expected a float switch, or THING above MARK, such as tray "
              "above 80%");
        return;
    }
    const struct thing *about =
        things_find(&file->things, &file->problems, value->place, name.text,
                    (const char *const[]){"sensor", "tank", NULL});
    if (!about) {
        plan_check_units(file, value);
        return;
    }
    turn->until = plan_number(file, (int32_t)(about - file->things.list));
    making->duty->keep = turn->until;
    enum cup_unit unit =
        (enum cup_unit)cup_thing_unit(&file->plan, turn->until);
    if (plain && unit == CUP_UNIT_CONTACT)
        turn->until_above = 0;
    else if (quantity_read(mark.text, unit, &turn->until_above))
        wrong(making, "until",
              "expected a float switch, or THING above MARK, such as tray "
              "above 80%");
    turn->until_side = turn->until_above - 1;
}

/* How long a pump takes for a volume: at least a ms, at most a day. */
static uint32_t time_of(int32_t ml, int32_t ml_min)
{
    uint64_t ms = (uint64_t)ml * 60000 / (uint32_t)ml_min;
    if (ms > CUP_DAY_MS)
        return CUP_DAY_MS;
    return ms < 1 ? 1 : (uint32_t)ms;
}

/* "25L" by the flow of the pump. */
static void make_give(const struct duty_making *making, struct cup_turn *turn)
{
    const struct value *value = good_value(making->thing, "give");
    int32_t ml = 0;
    if (!value || !making->pump)
        return;
    const struct value *flow = good_value(making->pump, "flow");
    const char *bad = quantity_read(value->text, CUP_UNIT_LITRE, &ml);
    if (bad || ml <= 0)
        wrong(making, "give", bad ? bad : "expected more than nothing");
    else if (!value_of(making->pump, "flow")->given)
        wrong(making, "give", "its pump needs flow, what it gives in a minute");
    else if (flow)
        turn->run_ms = time_of(ml, flow->number);
}

static void check_flood(const struct duty_making *making)
{
    static const char *const others[] = {"for", "give", "at"};
    for (size_t i = 0; i < 3; i++)
        if (given(making, others[i]))
            wrong(making, others[i], "is for timed runs, not for floods");
    if (!given(making, "every"))
        wrong(making, "flood", "needs every, from one flood to the next");
}

static void check_timed(const struct duty_making *making)
{
    static const char *const others[] = {"by", "at_most_apart",
                                         "at_least_apart"};
    for (size_t i = 0; i < 3; i++)
        if (given(making, others[i]))
            wrong(making, others[i], "needs flood: how long one is");
    if (given(making, "for") == given(making, "give"))
        wrong(making, given(making, "for") ? "for" : "at",
              "a timed run needs for or give, one of them");
    if (!given(making, "at") && !given(making, "every"))
        wrong(making, NULL,
              "a timed run needs at, times of the clock, or every");
}

static void check_turn(const struct duty_making *making,
                       const struct cup_turn *turn)
{
    if (given(making, "flood"))
        check_flood(making);
    else
        check_timed(making);
    if (turn->every_ms > 0 && turn->run_ms >= turn->every_ms)
        wrong(making, "every", "must be longer than one run takes");
    if (turn->apart_ms > 0 && turn->apart_ms < turn->every_ms)
        wrong(making, "at_most_apart", "must not be shorter than every");
    if (turn->least_ms > turn->every_ms && turn->every_ms > 0)
        wrong(making, "at_least_apart", "must not be longer than every");
}

static void make_turn(const struct duty_making *making)
{
    struct cup_file *file = making->file;
    const struct thing *thing = making->thing;
    struct cup_turn *turn = &file->tables.turns[thing->index];
    const struct value *by = good_value(thing, "by");
    *turn = (struct cup_turn){
        .run_ms =
            (uint32_t)number_of(thing, "flood", number_of(thing, "for", 0)),
        .every_ms = (uint32_t)number_of(thing, "every", 0),
        .apart_ms = (uint32_t)number_of(thing, "at_most_apart", 0),
        .least_ms = (uint32_t)number_of(thing, "at_least_apart", 0),
        .until = CUP_NONE,
        .day = by ? file->things.list[by->number].index : CUP_NONE,
        .dawn = given(making, "flood")};
    making->duty->turn = turn;
    making->duty->turn_own = file->plan.turns++;
    making->duty->keep = CUP_NONE;
    make_at(making, turn);
    make_until(making, turn);
    make_give(making, turn);
    check_turn(making, turn);
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

/* What may be changed */

/* Marks that can be passed; and a stop that fills is below full_at. */
static struct span span_of_mark(const struct duty_making *making, uint8_t field)
{
    const struct cup_duty *duty = making->duty;
    const struct cup_pump *pump = &making->file->plan.pumps[duty->pump];
    struct span span = span_of(&making->file->plan, duty->keep);
    span.low += span.low < INT32_MAX;
    span.high -= span.high > INT32_MIN;
    for (uint8_t g = 0; g < pump->guard_count; g++)
        if (pump->guards[g].kind == CUP_GUARD_DESTINATION &&
            pump->guards[g].about == duty->keep && field == CUP_FIELD_STOP &&
            duty->latch.start < duty->latch.stop &&
            span.high >= pump->guards[g].mark)
            span.high = pump->guards[g].mark - 1;
    return span;
}

/* What a setting may be: nothing that would be an error in the file. How two
 * of a duty must lie to each other is seen to when they change. */
static struct span span_of_field(const struct duty_making *making,
                                 uint8_t field)
{
    const struct cup_turn *turn = making->duty->turn;
    uint32_t longest = making->file->plan.pumps[making->duty->pump].longest_ms;
    struct span span = {1000, (int32_t)CUP_TIME_MAX_MS};
    if (field <= CUP_FIELD_STOP)
        return span_of_mark(making, field);
    if (field == CUP_FIELD_DOSE)
        span = (struct span){100, (int32_t)CUP_DAY_MS};
    if ((field == CUP_FIELD_DOSE || field == CUP_FIELD_RUN) && longest > 0 &&
        (uint32_t)span.high >= longest)
        span.high = (int32_t)longest - 1;
    if (field != CUP_FIELD_EVERY)
        return span;
    if (turn->apart_ms > 0)
        span.high = (int32_t)turn->apart_ms;
    if (turn->least_ms > 0)
        span.low = (int32_t)turn->least_ms;
    return span;
}

static void add_setting(const struct duty_making *making, uint8_t field)
{
    struct cup_file *file = making->file;
    struct span span = span_of_field(making, field);
    if (making->duty->settings == CUP_NONE)
        making->duty->settings = file->plan.setting_count;
    file->tables.settings[file->plan.setting_count++] =
        (struct cup_setting){.low = span.low,
                             .high = span.high,
                             .duty = making->thing->index,
                             .field = field};
}

/* Which of a duty's numbers it has at all. */
static bool has_field(const struct duty_making *making, uint8_t field)
{
    const struct cup_duty *duty = making->duty;
    if (field <= CUP_FIELD_STOP)
        return !duty->turn;
    if (field <= CUP_FIELD_SOAK)
        return duty->dose != NULL;
    return duty->turn && (field == CUP_FIELD_RUN || duty->turn->every_ms > 0);
}

static bool read_field(const struct duty_making *making, const char *word,
                       uint8_t *field)
{
    static const char *const fields[] = {
#define X(name, code) code,
        CUP_FIELDS(X)
#undef X
    };
    if (making->duty->turn && strcmp(word, "flood") == 0)
        word = "for";
    for (*field = 0; *field < CUP_FIELD_COUNT; ++*field)
        if (strcmp(fields[*field], word) == 0)
            return has_field(making, *field);
    return false;
}

static void make_change(const struct duty_making *making)
{
    const struct value *value = good_value(making->thing, "change");
    struct scanned word;
    unsigned seen = 0;
    if (!value)
        return;
    for (const char *at = value->text; scan_next(&at, &word);) {
        uint8_t field;
        if (!read_field(making, word.text, &field) || (seen & 1u << field)) {
            wrong(making, "change",
                  "expected numbers that this duty has, once each: start "
                  "stop, dose soak, flood or for, every");
            return;
        }
        seen |= 1u << field;
        add_setting(making, field);
    }
}

/* The duty as a whole */

/* A flood or a timed run, not a level that is kept. */
static bool is_turn(const struct duty_making *making)
{
    static const char *const keys[] = {"flood", "for", "give", "every", "at"};
    for (size_t i = 0; i < sizeof(keys) / sizeof(keys[0]); i++)
        if (given(making, keys[i]))
            return true;
    return false;
}

static void check_kind(const struct duty_making *making, bool turns)
{
    static const char *const keeping[] = {"start", "stop", "confirm", "also",
                                          "stops", "dose", "soak",    "doses"};
    if (given(making, "keep") && turns)
        wrong(making, "keep",
              "a duty keeps a level, floods or is timed: one of them");
    if (!given(making, "keep") && !turns)
        wrong(making, NULL,
              "what is it for? expected keep, flood, or for with every or at");
    for (size_t i = 0; turns && i < sizeof(keeping) / sizeof(keeping[0]); i++)
        if (given(making, keeping[i]))
            wrong(making, keeping[i], "is for a duty that keeps a level");
    if (!turns && given(making, "until"))
        wrong(making, "until", "is for a flood or a timed run");
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
        make_turn(&making);
    else if (given(&making, "keep")) {
        make_marks(&making);
        make_dose(&making);
        make_also(&making);
    }
    if (between && !read_hours(between->text, &duty->from, &duty->to))
        wrong(&making, "between",
              "expected HH:MM..HH:MM, such as 05:30..21:00");
    make_through(&making);
    make_change(&making);
}
