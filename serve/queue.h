/* Alerts that are yet to be sent, in a file over restarts and kills. */
#ifndef CUPLATCH_SERVE_QUEUE_H
#define CUPLATCH_SERVE_QUEUE_H

#include <jansson.h>
#include <stdbool.h>

/* With more the oldest goes. */
#define QUEUE_MOST 500

struct queue {
    const char *part; /* for the log */
    const char *path;
    json_t *list; /* the first is the oldest */
};

/* What is an alert, so that somebody is called: its kind. */
bool queue_is_alert(const char *kind);

void queue_open(struct queue *queue, const char *part, const char *path);
void queue_close(struct queue *queue);

/* Adds what is not in it yet: the same `site`, `run`, `number` and `to`. Takes
 * a reference. */
void queue_add(struct queue *queue, json_t *alert);
void queue_save(const struct queue *queue);

/* The oldest; null: it is empty. Its own. */
json_t *queue_first(const struct queue *queue);

/* The first goes, or to the end of it; and the file is written. */
void queue_drop(struct queue *queue);

#endif
