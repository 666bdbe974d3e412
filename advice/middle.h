/* The middle of a few numbers, which one that is far off does not move. */
#ifndef CUPLATCH_ADVICE_MIDDLE_H
#define CUPLATCH_ADVICE_MIDDLE_H

#include <stddef.h>
#include <stdint.h>

/* Puts them in order; there is one at least. */
int32_t middle_of(int32_t *list, size_t count);

#endif
