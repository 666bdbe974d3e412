/* Bars of lamps, signals for the whole site, and the panel. */
#include <stdio.h>
#include <string.h>

#include "../../grammar/quantity.h"
#include "../../grammar/scan.h"
#include "../inside.h"

/* How many words a value has, each of them an output; 0 when one is none. */
static int count_lamps(const char *value)
{
    struct scanned word;
    int count = 0;
    while (scan_next(&value, &word))
        if (!strchr(word.text, ':') || ++count > CUP_LAMPS_MOST)
            return 0;
    return count;
}

/* Reads rising marks; how many, 0 when they are wrong. */
static int read_marks(const char *value, enum cup_unit unit, int32_t *marks)
{
    struct scanned word;
    int count = 0;
    while (scan_next(&value, &word)) {
        if (count == CUP_LAMPS_MOST ||
            quantity_read(word.text, unit, &marks[count]) ||
            (count > 0 && marks[count] <= marks[count - 1]))
            return 0;
        count++;
    }
    return count;
}

void plan_make_bar(struct cup_file *file, const struct thing *thing)
{
    struct cup_bar *bar = &file->tables.bars[thing->index];
    int32_t *to = &file->tables.marks[(size_t)thing->index * CUP_LAMPS_MOST];
    const struct value *of = good_value(thing, "of");
    const struct value *lamps = good_value(thing, "lamps");
    const struct value *marks = good_value(thing, "marks");
    if (!of)
        plan_check_units(file, marks);
    if (!of || !lamps || !marks)
        return;
    bar->about = plan_number(file, of->number);
    bar->marks = to;
    int outputs = count_lamps(lamps->text);
    int count =
        read_marks(marks->text,
                   (enum cup_unit)cup_thing_unit(&file->plan, bar->about), to);
    if (outputs == 0)
        problem_error(&file->problems, lamps->place,
                      "expected up to 16 outputs, such as out:20 out:21");
    else if (count == 0)
        problem_error(&file->problems, marks->place,
                      "expected rising marks with their unit, such as 15%% "
                      "40%%");
    else if (outputs != count)
        problem_error(&file->problems, marks->place,
                      "expected as many marks as lamps, %d", outputs);
    bar->count = (uint8_t)count;
    bar->band = number_of(thing, "as", 0) == 1;
}

void plan_make_signal(struct cup_file *file, const struct thing *thing)
{
    file->tables.signals[thing->index].sounds = number_of(thing, "as", 0) == 1;
}

void plan_make_panel(struct cup_file *file, const struct thing *thing)
{
    struct cup_plan *plan = &file->plan;
    if (plan->panel_width > 0)
        problem_error(&file->problems, thing->place,
                      "a site has one panel; this is the second");
    plan->panel_width = number_of(thing, "width", 0) == 1 ? 20 : 16;
    plan->lapse_ms = (uint32_t)number_of(thing, "lapse", 30000);
    plan->light_ms = (uint32_t)number_of(thing, "light", 60000);
}
