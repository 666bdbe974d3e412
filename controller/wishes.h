/* What a controller may be given. */
#ifndef CUPLATCH_CONTROLLER_WISHES_H
#define CUPLATCH_CONTROLLER_WISHES_H

#include <stdbool.h>

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

#endif
