#include "queue.h"

#include <errno.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "../common/note.h"
#include "../common/private.h"
#include "ranks.h"

static bool is_same(const json_t *a, const json_t *b, const char *key)
{
    const json_t *one = json_object_get(a, key);
    const json_t *two = json_object_get(b, key);
    return one == two || json_equal(one, two);
}

/* Whether an alert is already in it: it may be told again after a start. */
static bool has(const struct queue *queue, const json_t *alert)
{
    static const char *const keys[] = {"site", "run",   "number", "kind",
                                       "over", "thing", "to"};
    size_t i;
    json_t *other;
    json_array_foreach(queue->list, i, other)
    {
        bool same = true;
        for (size_t k = 0; k < sizeof(keys) / sizeof(keys[0]); k++)
            same = same && is_same(alert, other, keys[k]);
        if (same)
            return true;
    }
    return false;
}

/* What is over before anybody was told that it came is one thing, and nothing
 * to tell. The first may be on its way. */
static bool has_cancelled(const struct queue *queue, const json_t *alert)
{
    if (!json_is_true(json_object_get(alert, "over")))
        return false;
    for (size_t i = 1; i < json_array_size(queue->list); i++) {
        const json_t *other = json_array_get(queue->list, i);
        if (!is_same(alert, other, "site") || !is_same(alert, other, "thing") ||
            !is_same(alert, other, "to"))
            continue;
        json_array_remove(queue->list, i);
        return true;
    }
    return false;
}

static size_t count_of(const struct queue *queue, const json_t *alert)
{
    size_t i;
    size_t count = 0;
    json_t *other;
    json_array_foreach(queue->list, i, other)
    {
        count += is_same(alert, other, "site");
    }
    return count;
}

/* The oldest of a site that is no harm; its oldest, if all are. */
static void drop_oldest_of(const struct queue *queue, const json_t *alert)
{
    size_t at = 0;
    for (size_t i = json_array_size(queue->list); i > 1; i--) {
        const json_t *other = json_array_get(queue->list, i - 1);
        if (is_same(alert, other, "site") && (at == 0 || !rank_is_harm(other)))
            at = i - 1;
    }
    if (at > 0)
        json_array_remove(queue->list, at);
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
    *queue = (struct queue){part, path, json_load_file(path, 0, NULL), false};
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

/* Once, until one could go. */
static void tell_of(struct queue *queue, const json_t *alert, int most)
{
    if (!queue->told)
        note(queue->part, json_string_value(json_object_get(alert, "site")),
             "more than %d wait: the oldest go", most);
    queue->told = true;
}

void queue_add(struct queue *queue, json_t *alert)
{
    if (has(queue, alert) || has_cancelled(queue, alert))
        return;
    json_array_append(queue->list, alert);
    if (count_of(queue, alert) > QUEUE_SHARE) {
        tell_of(queue, alert, QUEUE_SHARE);
        drop_oldest_of(queue, alert);
    }
    if (json_array_size(queue->list) > QUEUE_MOST) {
        tell_of(queue, NULL, QUEUE_MOST);
        json_array_remove(queue->list, 1);
    }
}

/* To the front, so that it is the one under way. */
static json_t *to_front(const struct queue *queue, size_t i)
{
    json_t *alert = json_array_get(queue->list, i);
    if (i > 0) {
        json_array_insert(queue->list, 0, alert);
        json_array_remove(queue->list, i + 1);
    }
    return json_array_get(queue->list, 0);
}

json_t *queue_next(const struct queue *queue, bool quiet)
{
    size_t i;
    json_t *alert;
    json_array_foreach(queue->list, i, alert)
    {
        if (rank_is_harm(alert))
            return to_front(queue, i);
    }
    return quiet ? NULL : queue_first(queue);
}

json_t *queue_first(const struct queue *queue)
{
    return json_array_get(queue->list, 0);
}

void queue_drop(struct queue *queue)
{
    json_array_remove(queue->list, 0);
    queue->told = false;
    queue_save(queue);
}
