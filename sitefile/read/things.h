/* The things of a file with their values read: each key by its type, each
 * name found. What does not hold is among the problems. */
#ifndef CUPLATCH_SITEFILE_READ_THINGS_H
#define CUPLATCH_SITEFILE_READ_THINGS_H

#include "find.h"
#include "thing.h"

void things_read(struct things *things, const struct ini_file *file,
                 struct problems *problems);
void things_free(struct things *things);

/* A thing's value for a key of its kind. */
const struct value *value_of(const struct thing *thing, const char *key);

/* A value that is given and at which nobody looked, neither to plan nor to
 * refuse it; null: there is none. */
const struct value *things_unasked(const struct things *things);

/* The value of a key; null when it is not given or not good. */
const struct value *good_value(const struct thing *thing, const char *key);

/* The number of a key, or `otherwise` when it is not given or not good. */
int32_t number_of(const struct thing *thing, const char *key,
                  int32_t otherwise);

/* The index-th thing of a kind. */
const struct thing *thing_of(const struct things *things, enum kind_number kind,
                             size_t index);

#endif
