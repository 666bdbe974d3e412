/* Numbers that journals, histories and programs keep: none is ever given twice,
 * and what is new is added at the end, here and in frozen.txt. */
#include <stdio.h>
#include <string.h>

#include "../harness/harness.h"
#include "cuplatch/say.h"

/* A list of the file: what a number is called. */
struct list {
    const char *what;
    unsigned count;
    const char *(*code)(unsigned number);
};

static const char *reason(unsigned number)
{
    return cup_reason_code((uint8_t)number);
}

static const char *kind(unsigned number)
{
    return cup_kind_code((uint8_t)number);
}

/* Units share symbols: by the name of the enum. */
static const char *unit(unsigned number)
{
    static const char *const names[] = {
#define X(name, symbol, decimals) #name,
        CUP_UNITS(X)
#undef X
    };
    return names[number];
}

static const struct list lists[] = {{"reason", CUP_REASON_COUNT, reason},
                                    {"kind", CUP_KIND_COUNT, kind},
                                    {"unit", CUP_UNIT_COUNT, unit}};

CASE(no_number_that_was_given_is_another_now)
{
    char what[20], code[60];
    unsigned number, lines[3] = {0};
    FILE *in = fopen(FROZEN, "r");
    CHECK(in != NULL);
    while (in && fscanf(in, "%19s %u %59s", what, &number, code) == 3)
        for (size_t i = 0; i < 3; i++) {
            if (strcmp(lists[i].what, what) != 0)
                continue;
            harness_at("%s %u %s", what, number, code);
            CHECK_INT(number, lines[i]++);
            CHECK(number < lists[i].count);
            if (number < lists[i].count)
                CHECK_TEXT(lists[i].code(number), code);
        }
    CHECK(in && feof(in));
    for (size_t i = 0; i < 3; i++)
        for (unsigned n = lines[i]; n < lists[i].count; n++) {
            harness_at("new: a line \"%s %u %s\" at the end of its kind in "
                       "tests/core/frozen.txt",
                       lists[i].what, n, lists[i].code(n));
            CHECK(n < lines[i]);
        }
    harness_at(NULL);
    if (in)
        fclose(in);
}
