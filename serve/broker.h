/* The broker part: what controllers say goes to an MQTT broker, for whatever
 * else listens. Levels and outputs are retained, and overwritten while the
 * broker is away; events wait for it in the outbox of the history. */
#ifndef CUPLATCH_SERVE_BROKER_H
#define CUPLATCH_SERVE_BROKER_H

#include "link.h"

/* Events on their way at once, of one controller. */
#define BROKER_FLIGHT 32
#define BROKER_PAUSE_FIRST_S 2
#define BROKER_PAUSE_MOST_S 60

/*   host           of mqtt://HOST:PORT, or mqtts:// which is by TLS; null:
 * there is no broker base           what all topics begin with user,
 * password_file, authority  may be null; the password is the file's first line,
 * read at each connection; the authority's certificates are those of the
 * machine where none is named */
struct broker_config {
    char host[200];
    int port;
    bool tls;
    const char *base;
    const char *user;
    const char *password_file;
    const char *authority;
};

struct broker;
struct past;

/* `history` is the history's file, beside which the identity is kept. */
struct broker *broker_open(const struct broker_config *config,
                           const char *history, struct past *past);
void broker_close(struct broker *broker);

/* One more controller: who hears of it. `name` must live as long. */
struct link_ear broker_ear(struct broker *broker, const char *name);

#endif
