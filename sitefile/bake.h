/* A plan as C tables, for boards: no parser and no heap there. */
#ifndef CUPLATCH_SITEFILE_BAKE_H
#define CUPLATCH_SITEFILE_BAKE_H

#include "sitefile.h"

/* The C text of a plan with one site of its state, named `name` (a C name).
 * A `bare` one has no names, so no texts, and its core no steering words.
 * At its head stand what it needs and the sentences of cup_file_explain().
 * Only for a file without errors. The caller frees it. */
char *cup_file_bake(const struct cup_file *file, const char *name, bool bare);

/* The header that goes with it: what the core needs to be built for just this
 * plan (see uses.h), and the site. The same name and the same `bare`. */
char *cup_file_bake_header(const struct cup_file *file, const char *name,
                           bool bare);

#endif
