/* Floods and timed runs: when they come, how long they are, what ends them. */
#include "../../grammar/quantity.h"
#include "../../grammar/scan.h"
#include "duty.h"

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
            duty_wrong(
                making, "at",
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
        duty_wrong(making, "until",
                   "expected a float switch, or THING above MARK, such as tray "
                   "above 80%");
        return;
    }
    turn->until = plan_find_read(file, value, name.text);
    if (turn->until == CUP_NONE)
        return;
    making->duty->keep = turn->until;
    enum cup_unit unit =
        (enum cup_unit)cup_thing_unit(&file->plan, turn->until);
    if (plain && unit == CUP_UNIT_CONTACT)
        turn->until_above = 0;
    else if (quantity_read(mark.text, unit, &turn->until_above))
        duty_wrong(making, "until",
                   "expected a float switch, or THING above MARK, such as tray "
                   "above 80%");
    turn->until_side = turn->until_above - 1;
}

static void check_flood(const struct duty_making *making)
{
    static const char *const others[] = {"for", "give", "at"};
    for (size_t i = 0; i < 3; i++)
        if (duty_given(making, others[i]))
            duty_wrong(making, others[i], "is for timed runs, not for floods");
    if (!duty_given(making, "every"))
        duty_wrong(making, "flood", "needs every, from one flood to the next");
}

static void check_timed(const struct duty_making *making)
{
    static const char *const others[] = {"by", "at_most_apart",
                                         "at_least_apart"};
    for (size_t i = 0; i < 3; i++)
        if (duty_given(making, others[i]))
            duty_wrong(making, others[i], "needs flood: how long one is");
    if (duty_given(making, "for") == duty_given(making, "give"))
        duty_wrong(making, duty_given(making, "for") ? "for" : "at",
                   "a timed run needs for or give, one of them");
    if (!duty_given(making, "at") && !duty_given(making, "every"))
        duty_wrong(making, NULL,
                   "a timed run needs at, times of the clock, or every");
}

static void check_turn(const struct duty_making *making,
                       const struct cup_turn *turn)
{
    if (duty_given(making, "flood"))
        check_flood(making);
    else
        check_timed(making);
    if (turn->every_ms > 0 && turn->run_ms >= turn->every_ms)
        duty_wrong(making, "every", "must be longer than one run takes");
    if (turn->apart_ms > 0 && turn->apart_ms < turn->every_ms)
        duty_wrong(making, "at_most_apart", "must not be shorter than every");
    if (turn->least_ms > turn->every_ms && turn->every_ms > 0)
        duty_wrong(making, "at_least_apart", "must not be longer than every");
}

void duty_make_turn(const struct duty_making *making)
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
        .owed_ms = (uint32_t)number_of(thing, "owed", 0),
        .until = CUP_NONE,
        .day = by ? file->things.list[by->number].index : CUP_NONE,
        .dawn = duty_given(making, "flood")};
    making->duty->turn = turn;
    making->duty->turn_own = file->plan.turns++;
    making->duty->keep = CUP_NONE;
    make_at(making, turn);
    make_until(making, turn);
    turn->run_ms = cup_most(turn->run_ms, duty_give_ms(making));
    check_turn(making, turn);
}
