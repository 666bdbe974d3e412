/* Things and words, by their names. */
#ifndef CUPLATCH_SITEFILE_READ_FIND_H
#define CUPLATCH_SITEFILE_READ_FIND_H

#include "thing.h"

/* The thing of a name; null, with the error told, when there is none or it is
 * none of `kinds` (which ends with null). */
const struct thing *things_find(const struct things *things,
                                struct problems *problems, struct place place,
                                const char *name, const char *const *kinds);

/* Whether a word is in a list that ends with null. */
bool is_word(const char *const *words, const char *word);

#endif
