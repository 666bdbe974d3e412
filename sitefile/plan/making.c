/* A sensor in the making: its keys, and what the row of its form says. */
#include "making.h"

void making_wrong(const struct making *making, struct place place,
                  const char *message)
{
    problem_error(&making->file->problems, place, "%s", message);
}

struct place making_place(const struct making *making, const char *key)
{
    const struct value *value = value_of(making->thing, key);
    return value->given ? value->place : making->thing->place;
}

bool making_given(const struct making *making, const char *key)
{
    return value_of(making->thing, key)->given;
}

bool making_needs(const struct making *making, enum need need)
{
#define X(name, code, arrives, unit, needs, ...) NEED_##needs,
    static const enum need all[CUP_FORM_COUNT] = {CUP_FORMS(X)};
#undef X
    return all[making->form] == need;
}

bool making_streams(const struct making *making)
{
    enum { NUMBER, FRAME, STREAM, BLOCK };
#define X(name, code, arrives, ...) (arrives) == STREAM,
    static const bool all[CUP_FORM_COUNT] = {CUP_FORMS(X)};
#undef X
    return all[making->form];
}
