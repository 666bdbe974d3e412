/* A running controller, for commands that talk to it. */
#ifndef CUPLATCH_CLI_REACH_H
#define CUPLATCH_CLI_REACH_H

#include "../socket/client.h"

/* At a path, or, when it is null, the only one there is. Null when nobody is
 * there, which was told. */
struct client *client_reach(const char *path);

/* cuplatch look --live: until it is told to end; `once` prints one frame.
 * Returns an exit code. */
int live_look(const char *socket, bool once);

#endif
