/* A site run for real, over this machine's own pins, by a worker under a
 * guardian. */
#ifndef CUPLATCH_CONTROLLER_CONTROLLER_H
#define CUPLATCH_CONTROLLER_CONTROLLER_H

#include "ready.h"

/* Texts are the caller's; null where nothing is wished, but `pins` is needed.
 *   pins         the file that says what the site's ports are here
 *   journal      keeps settings, trips and totals over restarts
 *   record       a folder for the raw log, of so many days
 *   socket       where it listens; by the site's id if not given
 *   trust_clock  this machine's clock is right, whatever the kernel says */
struct controller_wishes {
    const char *pins;
    const char *journal;
    const char *record;
    const char *socket;
    int record_days;
    bool trust_clock;
};

/* Runs until it is told to end. Returns an exit code, what is wrong was told on
 * stderr; or CONTROLLER_ANEW when it is to begin anew, with files that were
 * changed. */
#define CONTROLLER_ANEW (-1)
int controller_run(struct site *site, const struct controller_wishes *wishes);

#endif
