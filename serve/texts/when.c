#include "when.h"

bool when_is_quiet(int from, int to, int minute)
{
    return from <= to ? minute >= from && minute < to
                      : minute >= from || minute < to;
}

bool when_begins(struct today *today, int day)
{
    if (today->day == day)
        return false;
    *today = (struct today){.day = day};
    return true;
}

int when_sent(uint16_t before, uint16_t sent)
{
    return sent >= before ? sent - before : sent;
}

bool when_may_answer(const struct today *today, int a_day)
{
    return today->count < a_day && today->answers < (a_day + 1) / 2;
}

bool when_may_alert(const struct today *today, int a_day, bool harm)
{
    return harm || today->count < a_day;
}
