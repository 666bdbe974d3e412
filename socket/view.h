/* A running site as JSON, for whoever follows it. */
#ifndef CUPLATCH_SOCKET_VIEW_H
#define CUPLATCH_SOCKET_VIEW_H

#include <jansson.h>

#include "cuplatch/site.h"

/* Who the site is.
 *   name      to people
 *   id        to programs
 *   speakers  users who say for whom they speak, apart by blanks; may be null
 *   zone      where its clock is, as "Europe/Lisbon"; may be null
 *   flows     of each pump, in ml/min, 0 where it is not known; may be null */
struct view_about {
    const char *name;
    const char *id;
    const char *speakers;
    const char *zone;
    const int32_t *flows;
};

/* What does not change while it runs: every thing with its kind and unit, what
 * belongs to what, and what may be changed within which limits. The caller owns
 * it; `run` is this start's id. */
json_t *view_site(const struct cup_site *site, const struct view_about *about,
                  const char *run);

/* The name of the duty whose run a start begins; null for any other event, and
 * for a run by hand. */
const char *view_duty(const struct cup_site *site,
                      const struct cup_event *event);

/* How it is now: {"t", "levels", "out", "pumps", "duties", "days", "standing"};
 * `samples` is how many came of each sensor. The caller owns it. */
json_t *view_now(const struct cup_site *site, const uint32_t *samples);

/* What of `now` is other than `before`, of each thing as a whole, and "t". The
 * caller owns it. */
json_t *view_changes(const json_t *before, const json_t *now);

#endif
