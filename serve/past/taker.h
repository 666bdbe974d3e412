/* Lines of a controller into a history: the thread's half of the history part,
 * with nothing in it that waits for anybody but the disk. */
#ifndef CUPLATCH_SERVE_PAST_TAKER_H
#define CUPLATCH_SERVE_PAST_TAKER_H

#include <jansson.h>

#include "../../history/gather.h"

struct taker;

/* For one controller; nothing counts until it has said {"site"}. */
struct taker *taker_open(struct history *history);

/* From now on each event is put into the outbox, too. */
void taker_sends(struct taker *taker);
void taker_close(struct taker *taker);

/* Takes a line that came at a time, UTC. False when it could not be written. */
bool taker_line(struct taker *taker, const json_t *line, int64_t now);

/* Writes what is in the making, too. */
bool taker_save(const struct taker *taker);

/* The controller is not there any more. */
bool taker_gone(struct taker *taker);

/* How far its events are taken; false while nothing is known of it. */
bool taker_seen(const struct taker *taker, char *id, size_t size,
                struct history_seen *seen);

/* Whether levels or an event say by themselves when they were. */
bool taker_has_time(const json_t *json);

#endif
