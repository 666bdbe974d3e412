/* Who asks, and whether that is to be believed: the name it calls us by, where
 * it comes from, its session or its key. */
#ifndef CUPLATCH_SERVE_PAGE_DOOR_H
#define CUPLATCH_SERVE_PAGE_DOOR_H

#include <event2/http.h>
#include <stdbool.h>

#include "keys.h"
#include "sessions.h"
#include "tries.h"

/*   names   that we may be called by, apart by blanks; may be null
 *   listen  "ADDRESS:PORT"
 *   secure  by TLS */
struct door {
    const char *names;
    const char *listen;
    bool secure;
    struct keys keys;
    struct sessions sessions;
    struct tries tries;
};

bool door_open(struct door *door, const char *keys_path, char *wrong,
               size_t size);

/* Whether an address to listen at is this machine's alone. */
bool door_is_loopback(const char *listen);

/* Whether it calls us by a name of ours. Else it was answered. */
bool door_knows_host(const struct door *door, struct evhttp_request *request);

/* Whether what changes something comes from our own page, in JSON. Else it was
 * answered. */
bool door_believes(const struct door *door, struct evhttp_request *request);

/* Whose session or key it shows; null: nobody's. It was answered then. */
const struct key *door_who(struct door *door, struct evhttp_request *request);

/* Whose session it shows; null: nobody's, and nothing was answered. */
const struct key *door_session(struct door *door,
                               struct evhttp_request *request);

/* What somebody came in by: a stream ends with it. `session` is empty for who
 * showed a key. */
struct pass {
    char session[SECRET_HASH_SIZE];
    char key[SECRET_HASH_SIZE];
};
void door_pass(struct evhttp_request *request, const struct key *who,
               struct pass *pass);
bool door_still_open(struct door *door, const struct pass *pass);

/* Signing in with {"key": "..."} and out; answers. */
void door_sign_in(struct door *door, struct evhttp_request *request);
void door_sign_out(struct door *door, struct evhttp_request *request);

#endif
