/* What is to be sent to a broker: put into the history in the transaction of
 * what it tells of, so that neither is there without the other. What was sent
 * stays for a while, for whoever missed it. */
#ifndef CUPLATCH_HISTORY_OUTBOX_H
#define CUPLATCH_HISTORY_OUTBOX_H

#include "history.h"

/* Messages of a site that are kept, and those that may wait: the oldest go. */
#define OUTBOX_KEPT 10000
#define OUTBOX_WAITS 100000

/* Gets a message and the text it was put in with, which is gone after the
 * call. */
typedef void outbox_take(void *self, int64_t message, const char *text);

/* Adds an event of a site, by its id: its number, and as it will be said. */
bool outbox_put(struct history *history, const char *site, int64_t number,
                const char *text);

/* Those of a site that wait, after a message's number, `most` of them, in
 * order. */
bool outbox_read(struct history *history, const char *site, int64_t after,
                 int most, outbox_take *take, void *self);

/* The message with an event of a site by its number, the last one where several
 * had it; if there is none, the one before the first of a higher number; else
 * 0. */
int64_t outbox_find(struct history *history, const char *site, int64_t number);

/* As outbox_read(), whether they were sent or not. */
bool outbox_again(struct history *history, const char *site, int64_t after,
                  int most, outbox_take *take, void *self);

/* One has arrived. */
bool outbox_sent(struct history *history, int64_t message);

/* Lets go of what is more than may be kept, by a look that is as long as the
 * outbox. */
bool outbox_tidy(struct history *history);

#endif
