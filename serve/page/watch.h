/* One controller as the page sees it: what it is, how it is now, its last
 * events; and the browsers that follow it. */
#ifndef CUPLATCH_SERVE_PAGE_WATCH_H
#define CUPLATCH_SERVE_PAGE_WATCH_H

#include <event2/http.h>
#include <jansson.h>
#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

#include "door.h"

/* Events that a browser may have missed while it was away: of a controller of
 * this machine, and of one of many. */
#define WATCH_EVENTS 512
#define WATCH_EVENTS_AFAR 16
/* One that has more unread is let go; it comes again. */
#define WATCH_UNREAD_MOST 65536
/* Something is said so often, so that silence means that the line is cut. */
#define WATCH_BEAT_S 2

struct watch;

/* `name` is its section, and must live as long. It keeps so many events. */
struct watch *watch_open(const char *name, size_t events);
void watch_close(struct watch *watch);

const char *watch_name(const struct watch *watch);
bool watch_is_up(const struct watch *watch);

/* When it came or went, UTC; 0: it has not yet. */
int64_t watch_turned(const struct watch *watch);

/* What it said last; null: nothing yet. Another's. */
const json_t *watch_site(const struct watch *watch);

/* As it is now, with `up` and the machine's own `clock`, UTC; the caller's. */
json_t *watch_now(const struct watch *watch);

/* What stands; null: not known. Another's. */
json_t *watch_standing(const struct watch *watch);

/* The last events, the newest first, `most` of them. */
json_t *watch_events(const struct watch *watch, size_t most);

/* From which event on nothing is known; as of a link's ear. */
int64_t watch_since(const struct watch *watch, char *run, size_t size);
void watch_heard(struct watch *watch, const json_t *line);
void watch_up(struct watch *watch, bool up);

/* A browser follows from now on; events after number `since` of `run` first. */
void watch_follow(struct watch *watch, struct evhttp_request *request,
                  const struct pass *pass, const char *run, int64_t since);

/* Lets those go whose pass is no longer good. */
void watch_check(struct watch *watch, struct door *door);

/* Every WATCH_BEAT_S. */
void watch_beat(const struct watch *watch);

size_t watch_followers(const struct watch *watch);

#endif
