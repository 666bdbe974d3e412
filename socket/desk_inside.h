/* What the files of the desk share. */
#ifndef CUPLATCH_SOCKET_DESK_INSIDE_H
#define CUPLATCH_SOCKET_DESK_INSIDE_H

#include <jansson.h>

#include "desk.h"

/* Events that a follower can come back for. */
#define RING 4096

/* Whoever is at the desk. */
struct guest {
    bool follows;
    uint64_t next;    /* the number of the event that it gets next */
    json_t *seen;     /* the last `now` that it was given */
    uint64_t seen_ms; /* and when */
    json_t *done;     /* answers that wait for the pass */
};

struct desk {
    struct peers *peers;
    const struct cup_site *site;
    struct view_about about;
    uint32_t *samples; /* that came of each sensor */
    const char *cause;
    char *site_text; /* what followers are told first; null: made anew */
    char run[17];
    uint32_t site_ms;
    struct guest guests[PEERS_MOST];
    char *ring[RING]; /* events as texts */
    uint64_t number;  /* of the next event */
    char by[40];      /* who told what counts in the next pass */
    char user[40];    /* ... by the kernel's word, where that differs */
    bool goes_on;     /* numbers go on over restarts */
    int32_t ahead_s;  /* the clock is, of UTC */
};

/* Says something to a peer, and lets go of it; or why a line was refused, and
 * which of its words (-1: none of them). */
void desk_say(struct desk *desk, int peer, json_t *json);
void desk_refuse(struct desk *desk, int peer, const json_t *line,
                 const char *error, int word);

/* Answers questions at once; takes words, and answers after the pass. */
void desk_ask(struct desk *desk, int peer, const json_t *line,
              const json_t *questions);
void desk_tell(struct desk *desk, int peer, const json_t *line,
               const json_t *told);

#endif
