/* Where a controller listens. */
#ifndef CUPLATCH_CONTROLLER_LISTEN_H
#define CUPLATCH_CONTROLLER_LISTEN_H

#include "../socket/desk.h"
#include "ready.h"

/* Opens the local socket at a path, or by the site's id if that is null, and
 * says where in `hello` (of `size` bytes). `zone` is that of the site's clock;
 * null: this machine's. Null, told on stderr, when that cannot be done. */
struct desk *listen_open(const struct site *site, const char *socket,
                         const char *zone, char *hello, size_t size);

#endif
