/* Where people and programs reach a running controller: they ask, tell and
 * follow, in lines of JSON over the local socket. What is told is taken between
 * two passes, whole or not at all, and answered after the pass in which it
 * counted. */
#ifndef CUPLATCH_SOCKET_DESK_H
#define CUPLATCH_SOCKET_DESK_H

#include "cuplatch/site.h"
#include "peers.h"

struct desk;

/* Opens it at a path for a site whose plan has names. Null, and `wrong` (of
 * `size` bytes) says why. The site and its name must live as long. */
struct desk *desk_open(const char *path, const struct cup_site *site,
                       const char *name, char *wrong, size_t size);
void desk_close(struct desk *desk);

/* Gets every event of the site, as it is told. */
void desk_event(struct desk *desk, const struct cup_event *event);

/* After each pass: the site's time, and the real one. */
void desk_passed(struct desk *desk, uint32_t site_ms, uint64_t now_ms);

/* What to wait for, and what to do then; as of peers. */
size_t desk_wait(const struct desk *desk, struct pollfd *fds);
void desk_turn(struct desk *desk, uint32_t site_ms, uint64_t now_ms);

#endif
