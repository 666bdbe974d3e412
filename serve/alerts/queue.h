/* Alerts that are yet to be sent, in a file over restarts and kills. */
#ifndef CUPLATCH_SERVE_ALERTS_QUEUE_H
#define CUPLATCH_SERVE_ALERTS_QUEUE_H

#include <jansson.h>
#include <stdbool.h>

/* With more the oldest goes; of one site there are never more than its share.
 */
#define QUEUE_MOST 500
#define QUEUE_SHARE 100

struct queue {
    const char *part; /* for the log */
    const char *path;
    json_t *list; /* the first is the oldest */
    bool told;    /* that some had to go */
};

void queue_open(struct queue *queue, const char *part, const char *path);
void queue_close(struct queue *queue);

/* Adds what is not in it yet: the same `site`, `run`, `number`, `kind`, `over`,
 * `thing` and `to`. What is over cancels that it came, if that still waits.
 * Takes a reference. */
void queue_add(struct queue *queue, json_t *alert);
void queue_save(const struct queue *queue);

/* The one to be told now, which is the first then: harm before all else, and
 * where it is quiet nothing else; null: none. Its own. */
json_t *queue_next(const struct queue *queue, bool quiet);

/* The first; null: it is empty. Its own. */
json_t *queue_first(const struct queue *queue);

/* The first goes, or to the end of it; and the file is written. */
void queue_drop(struct queue *queue);

#endif
