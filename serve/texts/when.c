#include "when.h"

#include <stdio.h>
#include <string.h>

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

struct wrong_codes *when_wrong_by(struct wrong_codes *list, size_t count,
                                  const char *name)
{
    struct wrong_codes *oldest = list;
    for (size_t i = 0; i < count; i++) {
        if (strcmp(list[i].name, name) == 0)
            return &list[i];
        if (list[i].last_s < oldest->last_s)
            oldest = &list[i];
    }
    *oldest = (struct wrong_codes){.count = 0};
    snprintf(oldest->name, sizeof(oldest->name), "%s", name);
    return oldest;
}

static bool is_past(const struct wrong_codes *wrong, int64_t now_s)
{
    return now_s - wrong->last_s >= WHEN_WRONG_S || now_s < wrong->last_s;
}

bool when_codes_count(const struct wrong_codes *wrong, int64_t now_s)
{
    return wrong->count < WHEN_WRONG_MOST || is_past(wrong, now_s);
}

void when_wrong_code(struct wrong_codes *wrong, int64_t now_s)
{
    if (is_past(wrong, now_s))
        wrong->count = 0;
    wrong->count++;
    wrong->last_s = now_s;
}
