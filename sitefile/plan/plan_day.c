/* Day and night, alerts, groups. */
#include <stdio.h>
#include <string.h>

#include "../inside.h"

bool read_minute(const char *text, uint16_t *minute)
{
    unsigned hour = 0;
    unsigned past = 0;
    int used = 0;
    if (sscanf(text, "%2u:%2u%n", &hour, &past, &used) != 2 ||
        text[used] != '\0' || used < 4 || hour > 23 || past > 59)
        return false;
    *minute = (uint16_t)(hour * 60 + past);
    return true;
}

bool read_hours(const char *text, uint16_t *from, uint16_t *to)
{
    char first[8];
    char second[8];
    int used = 0;
    return sscanf(text, "%7[0-9:]..%7[0-9:]%n", first, second, &used) == 2 &&
           text[used] == '\0' && read_minute(first, from) &&
           read_minute(second, to) && *from != *to;
}

/* Days */

static void make_light(struct cup_file *file, const struct thing *thing,
                       struct cup_day *day)
{
    const struct value *light = good_value(thing, "light");
    static const char *const marks[] = {"day_above", "night_below"};
    for (int i = 0; i < 2; i++) {
        const struct value *mark = value_of(thing, marks[i]);
        if (value_of(thing, "light")->given && !mark->given)
            problem_error(&file->problems, thing->place,
                          "light needs day_above and night_below");
        if (!value_of(thing, "light")->given && mark->given)
            problem_error(&file->problems, mark->place,
                          "needs light, the sensor that it is about");
    }
    if (!light)
        return;
    day->light = plan_number(file, light->number);
    const struct value *above = plan_mark(file, thing, "day_above", day->light);
    const struct value *below =
        plan_mark(file, thing, "night_below", day->light);
    if (!above || !below)
        return;
    day->latch.start = above->number;
    day->latch.stop = below->number;
    if (above->number <= below->number)
        problem_error(&file->problems, above->place,
                      "must be above night_below, %s", below->text);
    plan_check_mark(file, above, day->light, true);
    plan_check_mark(file, below, day->light, false);
}

void plan_make_day(struct cup_file *file, const struct thing *thing)
{
    struct cup_day *day = &file->tables.days[thing->index];
    const struct value *between = good_value(thing, "between");
    day->light = CUP_NONE;
    day->latch.confirm_ms = (uint32_t)number_of(thing, "steady", 0);
    make_light(file, thing, day);
    if (between && !read_hours(between->text, &day->from, &day->to))
        problem_error(&file->problems, between->place,
                      "expected HH:MM..HH:MM, such as 05:30..21:00");
    if (!value_of(thing, "light")->given && !value_of(thing, "between")->given)
        problem_error(&file->problems, thing->place,
                      "a day needs light with its marks, or between, or both");
    if (between && !value_of(thing, "light")->given)
        problem_warning(&file->problems, between->place,
                        "without a clock it is never day: set one with site "
                        "clock, or add light");
}

/* Alerts */

static void make_alert_marks(struct cup_file *file, const struct thing *thing,
                             const struct value *of, bool low)
{
    struct cup_alert *alert = &file->tables.alerts[thing->index];
    if (!of) {
        plan_check_unit(file, thing, low ? "below" : "above");
        plan_check_unit(file, thing, "clear");
        return;
    }
    alert->about = plan_number(file, of->number);
    const struct value *mark =
        plan_mark(file, thing, low ? "below" : "above", alert->about);
    const struct value *clear = plan_mark(file, thing, "clear", alert->about);
    if (!mark || !clear)
        return;
    alert->latch.start = mark->number;
    alert->latch.stop = clear->number;
    if (low ? clear->number <= mark->number : clear->number >= mark->number)
        problem_error(&file->problems, clear->place, "must be %s %s",
                      low ? "above" : "below", mark->text);
    plan_check_mark(file, mark, alert->about, !low);
    plan_check_mark(file, clear, alert->about, low);
}

void plan_make_alert(struct cup_file *file, const struct thing *thing)
{
    struct cup_alert *alert = &file->tables.alerts[thing->index];
    const struct value *of = good_value(thing, "of");
    const struct value *say = good_value(thing, "say");
    bool low = value_of(thing, "below")->given;
    alert->latch.confirm_ms = (uint32_t)number_of(thing, "steady", 0);
    alert->repeat_ms = (uint32_t)number_of(thing, "repeat", 0);
    alert->say = say ? say->text : NULL;
    if (low == value_of(thing, "above")->given) {
        problem_error(&file->problems, thing->place,
                      "an alert needs below or above, one of them");
        return;
    }
    make_alert_marks(file, thing, of, low);
}

void plan_make_group(struct cup_file *file, const struct thing *thing)
{
    file->tables.groups[thing->index] =
        (cup_index)number_of(thing, "at_once", 1);
}
