/* A site made of a text, bound to a state, for tests that close the loop by
 * themselves; scenario.h is for those that are tables. */
#ifndef CUPLATCH_TESTS_WORLD_H
#define CUPLATCH_TESTS_WORLD_H

#include "../../sitefile/sitefile.h"

struct world {
    struct cup_file *file;
    struct cup_site site;
    void *state;
};

/* What such a site says of a level is its number at once, so that rows may leap
 * about, unless its text says how long a leap is to be believed; test_leaps.c
 * is for that. */
void world_take_numbers(const struct cup_plan *plan, const char *text);

/* A text with errors ends the test program, and tells them. */
void world_open(struct world *world, const char *text);
void world_close(struct world *world);

#endif
