/* The things of a file with their values read: each key by its type, each
 * name found. What does not hold is among the problems. */
#ifndef CUPLATCH_SITEFILE_THINGS_H
#define CUPLATCH_SITEFILE_THINGS_H

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

void things_read(struct things *things, const struct ini_file *file,
                 struct problems *problems);
void things_free(struct things *things);

/* A thing's value for a key of its kind. */
const struct value *value_of(const struct thing *thing, const char *key);

/* The value of a key; null when it is not given or not good. */
const struct value *good_value(const struct thing *thing, const char *key);

/* The number of a key, or `otherwise` when it is not given or not good. */
int32_t number_of(const struct thing *thing, const char *key,
                  int32_t otherwise);

/* The thing of a name; null, with the error told, when there is none or it is
 * none of `kinds` (which ends with null). */
const struct thing *things_find(const struct things *things,
                                struct problems *problems, struct place place,
                                const char *name, const char *const *kinds);

/* The index-th thing of a kind. */
const struct thing *thing_of(const struct things *things, enum kind_number kind,
                             size_t index);

#endif
