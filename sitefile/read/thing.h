/* A thing of a file, with its values. */
#ifndef CUPLATCH_SITEFILE_READ_THING_H
#define CUPLATCH_SITEFILE_READ_THING_H

#include "../../grammar/inifile.h"
#include "schema.h"

/* A key's value. number: a QUANTITY, MARK (once its unit is known) or COUNT;
 * the first of a RANGE, SMOOTH (N) or RETRY (ms); of a CHOICE, which word; of
 * a THING, its place among the things. second: the other one. READ: number 0 is
 * holding, then FIRST and COUNT; TAKE: the source, WORD, SCALE in millionths,
 * minus when signed. Numbers of a
 * value that is given but not good mean nothing; that was told already. */
struct value {
    bool given;
    bool good;
    bool asked; /* somebody looked at it */
    struct place place;
    const char *text;
    int32_t number;
    int32_t second;
    int32_t third;
    bool minus;
};

/* `index` is its number among its kind, in the order of the file; `word` what
 * the file calls it, and `style` which of the pumps that is. */
struct thing {
    enum kind_number kind;
    enum pump_style style;
    const char *word;
    const struct ini_section *section;
    struct place place;
    struct value *values;
    uint16_t index;
    bool guessed; /* its kind is an error: what it may have been meant to be */
};

struct things {
    struct thing *list;
    size_t count;
    size_t count_of[KIND_COUNT];
};

#endif
