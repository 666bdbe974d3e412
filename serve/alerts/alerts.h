/* What stands at every controller that is followed, so that somebody is called:
 * once when it comes, once a while if it is said again, and once when it is
 * over. A controller that is gone for long is such a thing, too. */
#ifndef CUPLATCH_SERVE_ALERTS_ALERTS_H
#define CUPLATCH_SERVE_ALERTS_ALERTS_H

#include "../link/link.h"

/* Gets an alert: the event with `site`, `site_name`, `run`, `heard` (UTC),
 * `rank`, `label`, `what`, `to_do`, `since` (UTC), `thing` and `over`. Its
 * own. */
typedef void alerts_take(void *self, json_t *alert);

#define ALERTS_OLD_S (INT64_C(24) * 3600)
/* What stands and is said again calls nobody sooner than this, unless the file
 * of its site says so. */
#define ALERTS_AGAIN_S 3600
/* A controller that does not answer for so long is told of. */
#define ALERTS_GONE_S 7200

/* What is of this machine itself, and may be gone; texts must live as long.
 *   of     its name, such as "modem"
 *   gone   what is so then, to go on with "since 14:02"
 *   back   and when it is over
 *   to_do  a sentence */
struct alerts_own {
    const char *of, *gone, *back, *to_do;
};

struct alerts {
    alerts_take *take;
    void *self;
    struct alert_sender *first;
    struct alert_sender *own; /* this machine */
    json_t *standing;         /* by site and thing: since, what, rank, told */
    const char *beside;
    char path[4400]; /* where that is kept over restarts */
    bool changed;
};

/* `beside` is a file beside which it is kept; it must live as long. */
void alerts_open(struct alerts *alerts, alerts_take *take, void *self,
                 const char *beside);
void alerts_close(struct alerts *alerts);

/* One more controller: who hears of it. `name` must live as long. */
struct link_ear alerts_ear(struct alerts *alerts, const char *name);

/* Once a second or so: whether it is there. One that is gone for as long as a
 * controller may be is told of. */
void alerts_own(struct alerts *alerts, const struct alerts_own *own,
                bool there);

/* Once a second or so: what has stood for long enough by now is told. */
void alerts_look(struct alerts *alerts, int64_t now);

#endif
