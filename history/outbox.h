/* What is yet to be sent to a broker: put into the history in the transaction
 * of what it tells of, so that neither is there without the other. */
#ifndef CUPLATCH_HISTORY_OUTBOX_H
#define CUPLATCH_HISTORY_OUTBOX_H

#include "history.h"

/* Adds an event of a site, by its id, as it will be said. */
bool outbox_put(struct history *history, const char *site, const char *text);

/* Those of a site after a message's number, `most` of them, in order; the texts
 * are gone after the call. */
bool outbox_read(struct history *history, const char *site, int64_t after,
                 int most,
                 void (*take)(void *self, int64_t message, const char *text),
                 void *self);

/* One has arrived. */
bool outbox_drop(struct history *history, int64_t message);

#endif
