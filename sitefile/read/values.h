/* Between the two files that read things. */
#ifndef CUPLATCH_SITEFILE_VALUES_H
#define CUPLATCH_SITEFILE_VALUES_H

#include "things.h"

/* A value under reading, with what its message needs. */
struct reading {
    const struct key *key;
    struct value *value;
    const struct things *things;
    struct problems *problems;
};

/* Reads the text of a value; what is wrong with it is among the problems. */
void value_read(struct reading *reading);

/* Whether a word is in a list that ends with null. */
bool is_word(const char *const *words, const char *word);

#endif
