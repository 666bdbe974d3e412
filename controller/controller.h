/* A site run for real, over this machine's own pins, by a worker under a
 * guardian. */
#ifndef CUPLATCH_CONTROLLER_CONTROLLER_H
#define CUPLATCH_CONTROLLER_CONTROLLER_H

#include "ready.h"
#include "wishes.h"

/* Runs until it is told to end. Returns an exit code, what is wrong was told on
 * stderr; or CONTROLLER_ANEW when it is to begin anew, with files that were
 * changed. */
#define CONTROLLER_ANEW (-1)
int controller_run(struct site *site, const struct controller_wishes *wishes);

#endif
