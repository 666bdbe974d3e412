/* The lines port: another program is the hardware. One JSON object a line in,
 * one out, in lock-step; each line is one pass at its time. */
#ifndef CUPLATCH_PORTS_LINES_H
#define CUPLATCH_PORTS_LINES_H

#include <stdio.h>

#include "../common/onlooker.h"
#include "cuplatch/journal.h"

/* What a run may have besides.
 *   watch  is told of each pass instead of `out`, which gets only errors
 *   store  where the journal is kept
 *   faster how many times faster than the lines say the site's time runs; 0
 *          is 1
 *   stop_fd  can be read once it must stop; -1: never
 *   failed   of an error: what failed, in words
 *   why      and its errno; 0: there is none */
struct cup_lines_more {
    const struct cup_onlooker *watch;
    const struct cup_store *store;
    uint32_t faster;
    int stop_fd;
    const char *failed;
    int why;
};

/* Runs a site, whose plan has names, until `in` ends, it must stop, or `out`
 * can't be written; then prints one last line with every output off.
 * CUP_ERROR_SPACE: no memory. CUP_ERROR_PORT: `in` cannot be read, or `out` or
 * the journal could not all be written. */
CUP_MUST_USE enum cup_error cup_lines_run(const struct cup_site *site, FILE *in,
                                          FILE *out,
                                          struct cup_lines_more *more);

#endif
