/* The sites of a broker: whoever is below its base is followed, as if it were a
 * controller of this machine. */
#ifndef CUPLATCH_SERVE_AFAR_AFAR_H
#define CUPLATCH_SERVE_AFAR_AFAR_H

#include <event2/event.h>

#include "../broker/mqtt.h"
#include "../link/link.h"

/* Messages that may wait for the loop; with more some are dropped, and events
 * among them asked for again. */
#define AFAR_WAITING_MOST 200000
#define AFAR_SITES_MOST 2000
/* Bytes of a message, and of all that wait. */
#define AFAR_TEXT_MOST (256 * 1024)
#define AFAR_BYTES_MOST ((size_t)32 * 1024 * 1024)
#define AFAR_PAUSE_FIRST_S 2
#define AFAR_PAUSE_MOST_S 60

struct afar_config {
    const char *name; /* its section; null: there is none */
    struct mqtt_config at;
};

struct afar;

/* Reads a section with is = sites; what is wrong is among the problems. */
void afar_read(struct afar_config *config, const struct ini_section *section,
               struct problems *problems);

/* Who hears of a site, once somebody speaks for it: `open` gives an ear and
 * takes the link through which to tell it; what it returns is closed with it.
 * The id lives as long. */
struct afar_ears {
    void *(*open)(void *self, const char *id, struct link *link,
                  struct link_ear *ear);
    void (*close)(void *one);
    void *self;
};

/* `history` is the history's file, beside which the identity is kept. */
struct afar *afar_open(struct event_base *base,
                       const struct afar_config *config, const char *history,
                       const struct afar_ears *ears);
void afar_close(struct afar *afar);

#endif
