/* What the files that make a duty share. */
#include "duty.h"
#include "../../grammar/quantity.h"

bool duty_given(const struct duty_making *making, const char *key)
{
    return value_of(making->thing, key)->given;
}

void duty_wrong(const struct duty_making *making, const char *key,
                const char *message)
{
    struct place place = making->thing->place;
    if (key && duty_given(making, key))
        place = value_of(making->thing, key)->place;
    problem_error(&making->file->problems, place, "%s", message);
}

uint32_t duty_give_ms(const struct duty_making *making)
{
    const struct value *value = good_value(making->thing, "give");
    int32_t ml = 0;
    if (!value || !making->pump)
        return 0;
    const struct value *flow = good_value(making->pump, "flow");
    const char *bad = quantity_read(value->text, CUP_UNIT_LITRE, &ml);
    if (bad || ml <= 0)
        duty_wrong(making, "give", bad ? bad : "expected more than nothing");
    else if (!value_of(making->pump, "flow")->given)
        duty_wrong(making, "give",
                   "its pump needs flow, what it gives in a minute");
    return !bad && ml > 0 && flow ? plan_time_of(ml, flow->number) : 0;
}
