/* The lines port: another program is the hardware. One JSON object a line in,
 * one out, in lock-step; each line is one pass at its time. */
#ifndef CUPLATCH_PORTS_LINES_H
#define CUPLATCH_PORTS_LINES_H

#include <stdio.h>

#include "../common/onlooker.h"

/* Runs a site, whose plan has names, until `in` ends or `*stop` is set; then
 * prints one last line with every output off. With a `watch` it tells that of
 * each pass instead, and prints nothing but errors. CUP_ERROR_SPACE: no
 * memory. CUP_ERROR_PORT: `out` cannot be written. */
CUP_MUST_USE enum cup_error cup_lines_run(const struct cup_site *site, FILE *in,
                                          FILE *out, const volatile int *stop,
                                          const struct cup_onlooker *watch);

#endif
