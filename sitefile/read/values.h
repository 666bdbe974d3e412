/* A value under reading. */
#ifndef CUPLATCH_SITEFILE_VALUES_H
#define CUPLATCH_SITEFILE_VALUES_H

#include "thing.h"

/* A value under reading, with what its message needs. */
struct reading {
    const struct key *key;
    struct value *value;
    const struct things *things;
    struct problems *problems;
};

/* Reads the text of a value; what is wrong with it is among the problems. */
void value_read(struct reading *reading);

#endif
