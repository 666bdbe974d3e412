/* Who calls somebody hears alerts alone, of every controller, each once a
 * run. */
#ifndef CUPLATCH_SERVE_ALERTS_H
#define CUPLATCH_SERVE_ALERTS_H

#include "link.h"

/* Gets an alert: the event with `site`, `site_name`, `run` and `heard`, UTC.
 * Its own. */
typedef void alerts_take(void *self, json_t *alert);

#define ALERTS_OLD_S (INT64_C(24) * 3600)

struct alerts {
    alerts_take *take;
    void *self;
    struct alert_sender *first;
};

void alerts_close(struct alerts *alerts);

/* One more controller: who hears of it. `name` must live as long. */
struct link_ear alerts_ear(struct alerts *alerts, const char *name);

#endif
