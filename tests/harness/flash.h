/* A journal's flash in memory, for tests: it only clears bits where it was not
 * erased, and its reads, its calls or its power can be made to fail. */
#ifndef CUPLATCH_TESTS_FLASH_H
#define CUPLATCH_TESTS_FLASH_H

#include "cuplatch/journal.h"

/*   reads_left  so many calls can be read, then none
 *   left        bytes until the power fails; erasing a byte counts, too
 *   noise       what a word is made of that the power cut tears; 0: it stays
 *   writes      calls that were written whole
 *   fails       not null: asked of each erase and write; one that fails leaves
 *               half of its bytes */
struct flash {
    uint8_t bytes[8 * 1024];
    int reads_left;
    uint32_t left;
    uint32_t noise;
    unsigned writes;
    bool (*fails)(void *of);
    void *of;
};

/* Erases all of it, and gives the store over it: two slots. */
struct cup_store flash_begin(struct flash *flash);

/* The store over what it holds. */
struct cup_store flash_store(struct flash *flash);

#endif
