/* A line to a controller, by whatever way; and the way by its local socket: it
 * is followed from where its events are known, and again, after growing pauses,
 * when it went away. */
#ifndef CUPLATCH_SERVE_LINK_LINK_H
#define CUPLATCH_SERVE_LINK_LINK_H

#include <event2/event.h>
#include <jansson.h>
#include <stdbool.h>
#include <stdint.h>

/* Controllers of one machine. */
#define LINKS_MOST 64

/* Who hears of a controller. Values are theirs only during the call, unless
 * they take a reference.
 *   since     up to which event of which run (of at least 64 letters) something
 *             is known of a site by its id; -1: nothing
 *   heard     a line that followers get: {"site"}, {"now"}, {"event"} or
 *             {"gone"}
 *   answered  a line that answers what was said; may be null
 *   up        whether it is there */
struct link_ear {
    int64_t (*since)(void *self, const char *id, char *run);
    void (*heard)(void *self, const json_t *line);
    void (*answered)(void *self, const json_t *line);
    void (*up)(void *self, bool up);
    void *self;
};

/* What every way has first. `there`: what is said arrives, as far as anybody
 * knows. */
struct link {
    bool there;
    void (*say)(struct link *link, json_t *line);
    void (*again)(struct link *link);
};

/* Says a line, if it is there; lets go of the value. */
static inline void link_say(struct link *link, json_t *line)
{
    link->say(link, line);
}

/* Begins anew: what was missed is asked for again. */
static inline void link_again(struct link *link)
{
    link->again(link);
}

/* By a socket. `name` is for the log; texts must live as long. */
struct link *link_open(struct event_base *base, const char *name,
                       const char *socket, const struct link_ear *ear);
void link_close(struct link *link);

#endif
