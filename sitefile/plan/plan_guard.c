/* The guards that a pump's keys ask for. */
#include "../../grammar/quantity.h"
#include "../../grammar/scan.h"
#include "../inside.h"
#include "cuplatch/say.h"

/* A destination that was full is filled again this far below the mark. */
#define FULL_AT 9700
#define FULL_BAND 100

static void add_guard(struct cup_file *file, const struct thing *thing,
                      struct cup_guard guard)
{
    struct cup_pump *pump = &file->tables.pumps[thing->index];
    struct cup_guard *guards =
        &file->tables.guards[(size_t)thing->index * CUP_GUARD_COUNT];
    pump->guards = guards;
    guards[pump->guard_count++] = guard;
}

/* Source */

static void check_heel(struct cup_file *file, const struct value *from,
                       const struct value *below)
{
    const struct thing *tank = &file->things.list[from->number];
    const struct value *heel = good_value(tank, "heel");
    if (heel && below->number < heel->number)
        problem_error(&file->problems, below->place,
                      "below the heel of %s, %s, where the pump draws air",
                      tank->section->name, heel->text);
}

static void check_dry_marks(struct cup_file *file, const struct value *below,
                            const struct value *clear)
{
    if (clear->number <= below->number)
        problem_error(&file->problems, clear->place,
                      "must be above dry_below, %s", below->text);
    else if (below->number == 0)
        problem_error(&file->problems, below->place,
                      "the tank reads 0 %% to 100 %%, so this could never be "
                      "passed");
}

static void check_dry_keys(struct cup_file *file, const struct thing *thing)
{
    const struct value *below = value_of(thing, "dry_below");
    const struct value *clear = value_of(thing, "dry_clear");
    const struct value *from = value_of(thing, "from");
    if (!from->given && (below->given || clear->given))
        problem_error(&file->problems,
                      below->given ? below->place : clear->place,
                      "needs from, the tank that may run dry");
    if (from->given && (!below->given || !clear->given))
        problem_error(&file->problems, from->place,
                      "a pump that draws from a tank needs dry_below and "
                      "dry_clear, or it could run dry");
}

static void make_source(struct cup_file *file, const struct thing *thing)
{
    const struct value *from = good_value(thing, "from");
    const struct value *below = good_value(thing, "dry_below");
    const struct value *clear = good_value(thing, "dry_clear");
    check_dry_keys(file, thing);
    if (!below || !clear)
        return;
    check_dry_marks(file, below, clear);
    if (!from)
        return;
    check_heel(file, from, below);
    plan_check_mark(file, below, plan_number(file, from->number), false);
    plan_check_mark(file, clear, plan_number(file, from->number), true);
    add_guard(file, thing,
              (struct cup_guard){.mark = below->number,
                                 .clear = clear->number,
                                 .about = plan_number(file, from->number),
                                 .kind = CUP_GUARD_SOURCE});
}

/* Destination */

static void check_full_at(struct cup_file *file, const struct thing *thing,
                          int32_t mark)
{
    const struct value *full_at = value_of(thing, "full_at");
    const struct value *into = good_value(thing, "into");
    if (full_at->given && !value_of(thing, "into")->given)
        problem_error(&file->problems, full_at->place,
                      "needs into, the tank that may overflow");
    if (full_at->good && mark <= FULL_BAND)
        problem_error(&file->problems, full_at->place,
                      "expected more than 1 %%");
    if (!into)
        return;
    cup_index tank = plan_number(file, into->number);
    if (full_at->good)
        plan_check_mark(file, full_at, tank, true);
    else if (mark >= span_of(&file->plan, tank).high)
        problem_error(
            &file->problems, thing->place,
            "needs full_at below %d.%02d %%, the most that %s can show",
            (int)span_of(&file->plan, tank).high / 100,
            (int)span_of(&file->plan, tank).high % 100, into->text);
}

static void make_destination(struct cup_file *file, const struct thing *thing)
{
    const struct value *into = good_value(thing, "into");
    const struct value *from = good_value(thing, "from");
    int32_t mark = number_of(thing, "full_at", FULL_AT);
    check_full_at(file, thing, mark);
    if (into && from && into->number == from->number)
        problem_error(&file->problems, into->place,
                      "the same tank as from; a pump moves water from one "
                      "tank to another");
    if (into)
        add_guard(file, thing,
                  (struct cup_guard){.mark = mark,
                                     .clear = mark - FULL_BAND,
                                     .about = plan_number(file, into->number),
                                     .kind = CUP_GUARD_DESTINATION});
}

void plan_check_full(struct cup_file *file, const struct thing *pump,
                     const struct value *keep, const struct value *stop)
{
    const struct value *into = good_value(pump, "into");
    int32_t mark = number_of(pump, "full_at", FULL_AT);
    if (into && into->number == keep->number && stop->number >= mark)
        problem_error(&file->problems, stop->place,
                      "must be below the pump's full_at, %d.%02d %%, or the "
                      "guard stops it first",
                      (int)mark / 100, (int)mark % 100);
}

/* Supply and frost */

cup_index plan_find_part(struct cup_file *file, const struct value *value,
                         const struct scanned *name, const char *kind)
{
    const struct thing *found =
        things_find(&file->things, &file->problems, value->place, name->text,
                    (const char *const[]){kind, NULL});
    if (found)
        return plan_number(file, (int32_t)(found - file->things.list));
    plan_check_units(file, value);
    return CUP_NONE;
}

static const char *read_limits(struct cup_file *file, struct cup_guard *guard,
                               const struct scanned *low,
                               const struct scanned *back)
{
    enum cup_unit unit =
        (enum cup_unit)cup_thing_unit(&file->plan, guard->about);
    if (guard->kind == CUP_GUARD_FROST && unit != CUP_UNIT_CELSIUS)
        return "frost is told by a sensor of temperatures";
    const char *wrong = quantity_read(low->text, unit, &guard->mark);
    if (!wrong)
        wrong = quantity_read(back->text, unit, &guard->clear);
    if (!wrong && guard->clear <= guard->mark)
        wrong = "back must be above the first limit";
    return wrong;
}

/* A guard of a limit that a sensor must be above. */
static void make_limit(struct cup_file *file, const struct thing *thing,
                       const char *key, enum cup_guard_kind kind)
{
    const struct value *needs = good_value(thing, key);
    struct scanned name;
    struct scanned low;
    struct scanned back;
    struct cup_guard guard = {.kind = (uint8_t)kind};
    if (!needs)
        return;
    if (!scan(needs->text, "* above * back *", &name, &low, &back)) {
        problem_error(&file->problems, needs->place,
                      "expected SENSOR above LIMIT back LIMIT, such as %s",
                      kind == CUP_GUARD_FROST ? "outdoors above 1.5C back 3C"
                                              : "battery above 11.9V back "
                                                "12.4V");
        return;
    }
    guard.about = plan_find_part(file, needs, &name, "sensor");
    if (guard.about == CUP_NONE)
        return;
    const char *wrong = read_limits(file, &guard, &low, &back);
    if (wrong)
        problem_error(&file->problems, needs->place, "%s", wrong);
    else
        add_guard(file, thing, guard);
}

void plan_make_guards(struct cup_file *file, const struct thing *thing)
{
    make_source(file, thing);
    make_destination(file, thing);
    make_limit(file, thing, "needs", CUP_GUARD_SUPPLY);
    make_limit(file, thing, "frost", CUP_GUARD_FROST);
}
