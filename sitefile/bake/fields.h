/* How the tables write a thing's fields: `at` is the thing, `words` its table.
 */
#ifndef CUPLATCH_SITEFILE_FIELDS_H
#define CUPLATCH_SITEFILE_FIELDS_H

#include "baking.h"
#define NUMBER(field) words_number(words, #field, sizeof(at->field), at->field)
#define VALUE(field) words_value(words, #field, at->field)
#define INDEX(field) words_index(words, #field, at->field)

/* Fields that are only there where their block is built. */
#define WHERE(block, put)                                                      \
    do {                                                                       \
        words->where = CUP_BLOCK_##block;                                      \
        put;                                                                   \
        words->where = ALWAYS;                                                 \
    } while (0)
/* Fields that are only there where their block is not built. */
#define UNLESS(block, put)                                                     \
    do {                                                                       \
        words->unless = true;                                                  \
        WHERE(block, put);                                                     \
        words->unless = false;                                                 \
    } while (0)
/* What has a name in the headers is written by it. */
#define NAMED(field, names)                                                    \
    words_constant(words, #field, sizeof(at->field), names[at->field])
#define NUMBER_WHERE(block, field) WHERE(block, NUMBER(field))
#define INDEX_WHERE(block, field) WHERE(block, INDEX(field))
#define POINTER_WHERE(block, field, of_one)                                    \
    WHERE(block, words_pointer(words, #field, field, of_one))

/* A latch, whose marks are compared with what `thing` says. */
void bake_latch(struct words *words, const struct cup_latch *at,
                cup_index thing);

/* Indexes in a table of their own; null when there are none. */
const char *bake_indexes(struct bake *bake, const char *stem,
                         const cup_index *list, size_t count);

/* Marks as counts, where that is how they are compared. */
struct counts bake_counts(const struct bake *bake, cup_index thing, int32_t one,
                          int32_t other);

#endif
