/* A running site on the screen. */
#ifndef CUPLATCH_CLI_LOOK_LIVE_H
#define CUPLATCH_CLI_LOOK_LIVE_H

#include <stdbool.h>

/* cuplatch look --live: until it is told to end; `once` prints one frame.
 * Returns an exit code. */
int live_look(const char *socket, bool once);

#endif
