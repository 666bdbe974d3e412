/* A plan as C tables, for boards: no parser and no heap there. */
#ifndef CUPLATCH_SITEFILE_BAKE_H
#define CUPLATCH_SITEFILE_BAKE_H

#include "sitefile.h"

/* What is left out of a plan: that a level may leap, where marks can be counts;
 * names, so texts, too; and steering words. */
enum cup_bake {
    CUP_BAKE_ALL,
    CUP_BAKE_COUNTING,
    CUP_BAKE_STEERED,
    CUP_BAKE_BARE
};

/* The C text of a plan with one site of its state, named `name` (a C name).
 * One that is COUNTING believes each level at once where its marks can be
 * counts. One that is STEERED does so, too, and has no names, and a BARE one no
 * steering words, either. At its head stand what it needs and the sentences of
 * cup_file_explain(). Only for a file without errors. The caller frees it. */
char *cup_file_bake(const struct cup_file *file, const char *name,
                    enum cup_bake kind);

/* Whether a board's port can mean every port of the file: KIND:NUMBER, a number
 * from 0 to 255. Else `wrong` (of `size` bytes, ended) says which, and why. */
bool cup_file_has_pins(const struct cup_file *file, char *wrong, size_t size);

/* Whether a board of that kind can time what the file gives: one without names
 * has a pass a scan, and would give more than is asked for. Else `wrong` as
 * above. */
bool cup_file_is_timed(const struct cup_file *file, enum cup_bake kind,
                       char *wrong, size_t size);

/* The header that goes with it: what the core needs to be built for just this
 * plan (see uses.h), and the site. The same name and the same kind. */
char *cup_file_bake_header(const struct cup_file *file, const char *name,
                           enum cup_bake kind);

#endif
