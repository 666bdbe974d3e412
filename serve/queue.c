#include "queue.h"

#include <errno.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "note.h"
#include "private.h"

bool queue_is_alert(const char *kind)
{
    static const char *const kinds[] = {"alert", "leak", "trip", "lock"};
    for (size_t i = 0; kind && i < sizeof(kinds) / sizeof(kinds[0]); i++)
        if (strcmp(kind, kinds[i]) == 0)
            return true;
    return false;
}

/* Whether an alert is already in it: it may be told again after a start. */
static bool has(const struct queue *queue, const json_t *alert)
{
    static const char *const keys[] = {"site", "run", "number", "to"};
    size_t i;
    json_t *other;
    json_array_foreach(queue->list, i, other)
    {
        bool same = true;
        for (size_t k = 0; k < sizeof(keys) / sizeof(keys[0]); k++) {
            const json_t *a = json_object_get(alert, keys[k]);
            const json_t *b = json_object_get(other, keys[k]);
            same = same && (a == b || json_equal(a, b));
        }
        if (same)
            return true;
    }
    return false;
}

void queue_save(const struct queue *queue)
{
    char *text = json_dumps(queue->list, JSON_INDENT(1));
    if (!text)
        abort();
    if (!private_put(queue->path, text))
        note(queue->part, NULL,
             "%s: %s; what is not sent is forgotten at the end", queue->path,
             strerror(errno));
    free(text);
}

void queue_open(struct queue *queue, const char *part, const char *path)
{
    *queue = (struct queue){part, path, json_load_file(path, 0, NULL)};
    if (json_is_array(queue->list))
        return;
    if (access(path, F_OK) == 0)
        note(part, NULL, "%s: is no list of alerts; it is begun anew", path);
    json_decref(queue->list);
    queue->list = json_array();
}

void queue_close(struct queue *queue)
{
    json_decref(queue->list);
}

void queue_add(struct queue *queue, json_t *alert)
{
    if (!has(queue, alert))
        json_array_append(queue->list, alert);
    while (json_array_size(queue->list) > QUEUE_MOST) {
        note(queue->part, NULL, "more than %d wait: the oldest goes",
             QUEUE_MOST);
        json_array_remove(queue->list, 0);
    }
}

json_t *queue_first(const struct queue *queue)
{
    return json_array_get(queue->list, 0);
}

void queue_drop(struct queue *queue)
{
    json_array_remove(queue->list, 0);
    queue_save(queue);
}
