/* A running controller, for commands that talk to it. */
#ifndef CUPLATCH_CLI_COMMON_REACH_H
#define CUPLATCH_CLI_COMMON_REACH_H

#include "../../socket/client.h"

/* At a path, or, when it is null, the only one there is. Null when nobody is
 * there, which was told. */
struct client *client_reach(const char *path);

#endif
