/* Pumps: their times, their proof and their days. */
#include <stdio.h>
#include <string.h>

#include "../../grammar/quantity.h"
#include "../../grammar/scan.h"
#include "../inside.h"
#include "cuplatch/say.h"

/* How long a hand run may be where nothing is said, in ms; and a run that one
 * can shorten by a second. */
#define HAND_LIMIT 600000
#define HAND_LEAST 2000

/* A pump of which nothing is said rests so long, in ms: a motor that is started
 * while it still spins down is worn by it. */
#define REST 10000

/* Proof of flow */

uint32_t cup_file_lag_ms(const struct cup_sensor *sensor)
{
    return sensor->every_ms * (sensor->window.size + 1u) / 2;
}

/* What shows a flow: the words between the thing and its change. */
static bool scan_proof(const char *text, struct scanned *name,
                       struct scanned *change, struct scanned *time,
                       uint8_t *kind)
{
    static const struct {
        const char *form;
        uint8_t kind;
    } forms[] = {{"* rises * in *", CUP_PROOF_RISES},
                 {"* falls * in *", CUP_PROOF_FALLS},
                 {"* above * in *", CUP_PROOF_ABOVE}};
    for (size_t i = 0; i < sizeof(forms) / sizeof(forms[0]); i++)
        if (scan(text, forms[i].form, name, change, time)) {
            *kind = forms[i].kind;
            return true;
        }
    return false;
}

/* What tells of a flow: a tank or a sensor, but not the sensor of a tank, whose
 * depth is in the file, too. */
static cup_index find_proof(struct cup_file *file, const struct value *value,
                            const struct scanned *name)
{
    cup_index about = plan_find_read(file, value, name->text);
    for (cup_index i = 0; i < file->plan.tank_count; i++)
        if (file->plan.tanks[i].sensor == about &&
            about < file->plan.sensor_count &&
            file->plan.tanks[i].form == CUP_TANK_DISTANCE) {
            problem_error(
                &file->problems, value->place,
                "%s reads a distance, which falls as %s fills; "
                "expected the tank: %s rises LENGTH in TIME",
                name->text,
                cup_thing_name(&file->plan, cup_tank_thing(&file->plan, i)),
                cup_thing_name(&file->plan, cup_tank_thing(&file->plan, i)));
            return CUP_NONE;
        }
    return about;
}

/* What it is about, how it changes, in how long; false when that was told to be
 * wrong. */
static bool read_proof(struct cup_file *file, const struct value *value,
                       struct cup_proof *proof)
{
    struct scanned name;
    struct scanned change;
    struct scanned time;
    int32_t ms = 0;
    if (!scan_proof(value->text, &name, &change, &time, &proof->kind)) {
        problem_error(&file->problems, value->place,
                      "expected TANK rises LENGTH in TIME, or falls, SENSOR "
                      "rises BY in TIME, or falls, or SENSOR above LIMIT in "
                      "TIME, such as header rises 6mm in 75s");
        return false;
    }
    bool above = proof->kind == CUP_PROOF_ABOVE;
    proof->about = above ? plan_find_part(file, value, &name, "sensor")
                         : find_proof(file, value, &name);
    if (proof->about == CUP_NONE)
        return false;
    enum cup_unit unit =
        proof->about < file->plan.sensor_count
            ? (enum cup_unit)cup_thing_unit(&file->plan, proof->about)
            : CUP_UNIT_MM;
    const char *wrong =
        above ? quantity_read(change.text, unit, &proof->change)
              : quantity_read_change(change.text, unit, &proof->change);
    if (!wrong && proof->change <= 0)
        wrong = "expected a change of more than nothing";
    if (!wrong)
        wrong = quantity_read(time.text, CUP_UNIT_SECOND, &ms);
    if (wrong)
        problem_error(&file->problems, value->place, "%s", wrong);
    proof->within_ms = (uint32_t)ms;
    proof->lag_ms = cup_file_lag_ms(
        &file->tables.sensors[cup_thing_sensor(&file->plan, proof->about)]);
    return !wrong;
}

static void check_window(struct cup_file *file, const struct value *value,
                         const struct cup_proof *proof)
{
    uint32_t least = 2 * proof->lag_ms;
    char time[24];
    if (proof->within_ms >= least && proof->within_ms > 0)
        return;
    cup_say_value(time, sizeof(time), NULL, (int32_t)least, CUP_UNIT_SECOND);
    problem_error(&file->problems, value->place,
                  "too short: %s answers so late that it takes at least %s",
                  cup_thing_name(&file->plan, proof->about), time);
}

static void make_proof(struct cup_file *file, const struct thing *thing)
{
    const struct value *value = good_value(thing, "proof");
    struct cup_pump *pump = &file->tables.pumps[thing->index];
    struct cup_proof *proof = &file->tables.proofs[thing->index];
    if (!value || !read_proof(file, value, proof))
        return;
    if (proof->about >= file->plan.sensor_count &&
        cup_tank_of(&file->plan, proof->about)->form == CUP_TANK_FLOATS) {
        problem_error(&file->problems, value->place,
                      "floats cannot prove a flow: expected a tank with a "
                      "sensor, or SENSOR above LIMIT");
        return;
    }
    for (uint8_t g = 0; g < pump->guard_count; g++)
        if (pump->guards[g].about == proof->about)
            proof->own++;
    pump->proof = proof;
    pump->proof_own = file->plan.proofs++;
    check_window(file, value, proof);
    if (!value_of(thing, "retry")->given)
        problem_warning(&file->problems, thing->place,
                        "no retry: one failed proof locks it until cleared. "
                        "Add one, such as retry = 10m x3");
}

/* Limits of a day */

/* "60starts" into 60; 0 when it is none. */
static int read_starts(const char *word)
{
    int starts = 0;
    int used = 0;
    if (sscanf(word, "%dstarts%n", &starts, &used) != 1 || used == 0 ||
        word[used] != '\0')
        return 0;
    return starts > UINT16_MAX ? 0 : starts;
}

/* One word of per_day; false when it is none. */
static bool read_limit(const char *word, struct cup_per_day *day)
{
    int32_t number = 0;
    int starts = read_starts(word);
    if (starts > 0) {
        day->starts = (uint16_t)starts;
        return true;
    }
    if (!quantity_read(word, CUP_UNIT_SECOND, &number)) {
        day->time_ms = (uint32_t)number;
        return number > 0 && day->time_ms <= CUP_DAY_MS;
    }
    if (quantity_read(word, CUP_UNIT_LITRE, &number))
        return false;
    day->volume_ml = (uint32_t)number;
    return number > 0;
}

uint32_t plan_time_of(int32_t ml, int32_t ml_min)
{
    uint64_t ms = (uint64_t)(uint32_t)ml * 60000 / (uint32_t)ml_min;
    if (ms > CUP_DAY_MS)
        return CUP_DAY_MS;
    return ms < 1 ? 1 : (uint32_t)ms;
}

static void make_volume(struct cup_file *file, const struct thing *thing,
                        struct cup_per_day *day)
{
    const struct value *flow = good_value(thing, "flow");
    if (day->volume_ml > 0 && !value_of(thing, "flow")->given)
        problem_error(&file->problems, value_of(thing, "per_day")->place,
                      "a volume needs flow, what the pump gives in a minute");
    if (day->volume_ml > 0 && flow)
        day->volume_ms = plan_time_of((int32_t)day->volume_ml, flow->number);
}

static void make_day(struct cup_file *file, const struct thing *thing)
{
    const struct value *value = good_value(thing, "per_day");
    struct cup_pump *pump = &file->tables.pumps[thing->index];
    struct cup_per_day *day = &file->tables.per_days[thing->index];
    struct scanned word;
    if (!value)
        return;
    for (const char *at = value->text; scan_next(&at, &word);)
        if (!read_limit(word.text, day)) {
            problem_error(&file->problems, value->place,
                          "\"%s\" is no limit of a day; expected a time, a "
                          "volume or starts, such as 3h 1200L 60starts",
                          word.text);
            return;
        }
    pump->per_day = day;
    pump->per_day_own = file->plan.per_days++;
    make_volume(file, thing, day);
}

static void check_shortest(struct cup_file *file, const struct thing *thing)
{
    const struct value *shortest = good_value(thing, "shortest");
    const struct value *longest = good_value(thing, "longest");
    if (shortest && longest && shortest->number >= longest->number)
        problem_error(&file->problems, shortest->place,
                      "must be shorter than longest, %s", longest->text);
}

/* What it is, and how its output moves */

static void read_travel(struct cup_file *file, const struct thing *thing,
                        struct cup_travel *travel)
{
    const struct value *value = value_of(thing, "travel");
    struct scanned time;
    int32_t ms = 0;
    bool whole = scan(value->text, "100% in *", &time);
    const char *wrong =
        quantity_read(whole ? time.text : value->text, CUP_UNIT_SECOND, &ms);
    if (wrong || ms <= 0)
        problem_error(&file->problems, value->place,
                      "expected TIME or 100%% in TIME, such as 100%% in 5s");
    travel->all_ms = (uint32_t)ms;
    travel->safe_pct100 = (uint16_t)number_of(thing, "safe", 0);
}

/* A vent has a place; whatever has two lines has one, too. */
static void make_output(struct cup_file *file, const struct thing *thing)
{
    struct cup_pump *pump = &file->tables.pumps[thing->index];
    struct cup_travel *travel = &file->tables.travels[thing->index];
    const struct value *group = good_value(thing, "group");
    bool lines =
        value_of(thing, "open")->given && value_of(thing, "close")->given;
    pump->group = group ? file->things.list[group->number].index : CUP_NONE;
    pump->uncounted = thing->style != STYLE_PUMP;
    pump->positional = lines || thing->style == STYLE_VENT;
    if (!lines && !value_of(thing, "port")->given)
        problem_error(&file->problems, thing->place,
                      "a %s needs the key \"port\", or open and close",
                      thing->word);
    if (value_of(thing, "travel")->given) {
        read_travel(file, thing, travel);
        pump->travel = travel;
        pump->travel_own = file->plan.travels++;
    } else if (pump->positional)
        problem_error(&file->problems, thing->place,
                      "needs travel, how long it takes to open, such as 100%% "
                      "in 5s");
    if (value_of(thing, "safe")->given && !pump->positional)
        problem_error(&file->problems, value_of(thing, "safe")->place,
                      "is for a vent, or what has open and close");
}

/* The pump as a whole */

/* Ten minutes; less where a run of that length would be a trip. */
static int32_t usual_hand_limit(const struct thing *thing)
{
    int32_t longest = number_of(thing, "longest", 0);
    return longest > HAND_LEAST && longest <= HAND_LIMIT ? longest - 1000
                                                         : HAND_LIMIT;
}

void plan_make_pump(struct cup_file *file, const struct thing *thing)
{
    struct cup_pump *pump = &file->tables.pumps[thing->index];
    const struct value *retry = good_value(thing, "retry");
    *pump = (struct cup_pump){
        .rest_ms = (uint32_t)number_of(thing, "rest",
                                       thing->style == STYLE_PUMP ? REST : 0),
        .longest_ms = (uint32_t)number_of(thing, "longest", 0),
        .retry_ms = (uint32_t)number_of(thing, "retry", 0),
        .hand_limit_ms =
            (uint32_t)number_of(thing, "hand_limit", usual_hand_limit(thing)),
        .shortest_ms = (uint32_t)number_of(thing, "shortest", 0),
        .retries = (uint8_t)(retry ? retry->second : 0),
        .active_low = number_of(thing, "active", 0) == 1,
    };
    make_output(file, thing);
    plan_make_guards(file, thing);
    make_proof(file, thing);
    make_day(file, thing);
    check_shortest(file, thing);
    bool pumps = thing->style == STYLE_PUMP;
    if (pumps && !value_of(thing, "longest")->given)
        problem_warning(&file->problems, thing->place,
                        "no longest: only its duty and its guards stop it. "
                        "Add one, such as longest = 15m");
}
