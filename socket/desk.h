/* Where people and programs reach a running controller: they ask, tell and
 * follow, in lines of JSON over the local socket. What is told is taken between
 * two passes, whole or not at all, and answered after the pass in which it
 * counted. */
#ifndef CUPLATCH_SOCKET_DESK_H
#define CUPLATCH_SOCKET_DESK_H

#include "cuplatch/site.h"
#include "peers.h"
#include "view.h"

struct desk;

/* Opens it at a path for a site whose plan has names. Null, and `wrong` (of
 * `size` bytes) says why. The site and what is said of it must live as long. */
struct desk *desk_open(const char *path, const struct cup_site *site,
                       const struct view_about *about, char *wrong,
                       size_t size);
void desk_close(struct desk *desk);

/* An event that was kept from before, as the line that it was: numbers go on
 * from the last. */
void desk_recall(struct desk *desk, const char *line);

/* By how much the site's clock is ahead of UTC, in s. */
void desk_ahead(struct desk *desk, int32_t ahead_s);

/* Gets every sensor that answered, or did not. */
void desk_sampled(struct desk *desk, cup_index sensor);

/* Why the site was started: goes with its next event. Must live as long. */
void desk_cause(struct desk *desk, const char *cause);

/* Gets every event of the site, as it is told. Returns it as a text, as
 * followers get it; it is the desk's. */
const char *desk_event(struct desk *desk, const struct cup_event *event);

/* After each pass: the site's time, and the real one; whether all that it asked
 * to be kept is kept, so that what was told can be answered. */
void desk_passed(struct desk *desk, uint32_t site_ms, uint64_t now_ms,
                 bool kept);

/* What to wait for, and what to do then; as of peers. */
size_t desk_wait(const struct desk *desk, struct pollfd *fds);
void desk_turn(struct desk *desk, uint32_t site_ms, uint64_t now_ms);

#endif
