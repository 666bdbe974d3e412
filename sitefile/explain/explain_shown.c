/* What lamps, a sounder and the panel will show. */
#include "explain.h"

static const char *lamp_name(const struct cup_plan *plan, size_t lamp)
{
    return plan->names[cup_things(plan) + lamp];
}

static void explain_bar(const struct cup_plan *plan, cup_index i, FILE *out)
{
    const struct cup_bar *bar = &plan->bars[i];
    uint8_t unit = cup_thing_unit(plan, bar->about);
    fprintf(out, "  light the lamps of %s %s as %s passes ", lamp_name(plan, i),
            bar->band ? "one at a time" : "one by one",
            explain_name(plan, bar->about));
    for (uint8_t m = 0; m < bar->count; m++)
        fprintf(out, "%s%s", m == 0 ? "" : ", ",
                explain_say(plan, bar->marks[m], unit).text);
    fprintf(out, ".\n");
}

static void explain_signal(const struct cup_plan *plan, cup_index i, FILE *out)
{
    const char *name = lamp_name(plan, (size_t)plan->bar_count + i);
    if (plan->signals[i].sounds)
        fprintf(out,
                "  sound %s, two short tones every 4 s, while a fault or an "
                "alert stands.\n",
                name);
    else
        fprintf(
            out,
            "  light %s while all is well; it blinks slowly while "
            "something waits,\n    fast while a fault or an alert stands.\n",
            name);
}

static void explain_button(const struct cup_file *file, cup_index i, FILE *out)
{
    const struct thing *thing = thing_of(&file->things, KIND_BUTTON, i);
    fprintf(out, "  take a press of %s for \"%s\"", thing->section->name,
            value_of(thing, "says")->text);
    if (value_of(thing, "again")->given)
        fprintf(out, ", while that holds for \"%s\"",
                value_of(thing, "again")->text);
    if (value_of(thing, "held")->given)
        fprintf(out, ",\n    a press of 1.5 s or more for \"%s\"",
                value_of(thing, "held")->text);
    fprintf(out, ".\n");
}

void explain_shown(const struct cup_file *file, FILE *out)
{
    const struct cup_plan *plan = &file->plan;
    for (cup_index i = 0; i < plan->bar_count; i++)
        explain_bar(plan, i, out);
    for (cup_index i = 0; i < plan->signal_count; i++)
        explain_signal(plan, i, out);
    for (cup_index i = 0; i < plan->button_count; i++)
        explain_button(file, i, out);
    if (plan->panel_width > 0)
        fprintf(out,
                "  show readings, pumps, settings and alerts on a panel of two "
                "lines "
                "of %d letters.\n",
                plan->panel_width);
}
