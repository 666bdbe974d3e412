/* A journal's flash in memory, for tests. */
#ifndef CUPLATCH_TESTS_FLASH_H
#define CUPLATCH_TESTS_FLASH_H

#include "cuplatch/journal.h"

/* `reads_left`: so many calls can be read, then none. */
struct flash {
    uint8_t bytes[2 * 2048];
    int reads_left;
};

/* Erases all of it, and gives the store over it: two slots. */
struct cup_store flash_begin(struct flash *flash);

#endif
