/* What the files that make a duty share. */
#include "duty.h"

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
