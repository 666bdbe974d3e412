#include "retained.h"

#include <stdbool.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "topics.h"

#define TOPIC_SIZE 256

struct retained retained_open(void)
{
    return (struct retained){json_object(), json_object(), json_object(),
                             json_object()};
}

void retained_close(struct retained *retained)
{
    json_decref(retained->texts);
    json_decref(retained->changed);
    json_decref(retained->pumps);
    json_decref(retained->out);
}

/* Null: nothing is retained there any more. */
static void put(struct retained *retained, const char *topic, json_t *value)
{
    char *text = value ? json_dumps(value, JSON_COMPACT | JSON_ENCODE_ANY |
                                               JSON_REAL_PRECISION(10))
                       : strdup("");
    json_decref(value);
    if (!text)
        abort();
    json_object_set_new(retained->texts, topic, json_string(text));
    json_object_set_new(retained->changed, topic, json_true());
    free(text);
}

static void put_named(struct retained *retained, const char *kind,
                      const char *name, json_t *value)
{
    char topic[TOPIC_SIZE];
    snprintf(topic, sizeof(topic), "%s/%.200s", kind, name);
    put(retained, topic, value);
}

/* Names that are no longer in the site are cleared. */
static bool is_of(const json_t *site, const char *topic)
{
    const char *name = strchr(topic, '/');
    const json_t *things = json_object_get(site, "things");
    for (size_t i = 0; name && i < json_array_size(things); i++) {
        const char *is = json_string_value(
            json_object_get(json_array_get(things, i), "name"));
        if (is && strcmp(is, name + 1) == 0)
            return true;
    }
    return !name;
}

void retained_site(struct retained *retained, const json_t *site)
{
    const char *topic;
    json_t *text;
    void *next;
    json_object_foreach_safe(retained->texts, next, topic, text)
    {
        if (!is_of(site, topic))
            put(retained, topic, NULL);
    }
    put(retained, topic_below(TOPIC_SITE), json_incref((json_t *)site));
}

/* What two members say of a name comes apart, each as it changes. */
static void put_both(struct retained *retained, const struct topic_row *row,
                     const json_t *now)
{
    const char *name;
    json_t *value;
    const json_t *values = json_object_get(now, row->member);
    const json_t *besides = json_object_get(now, row->beside);
    json_object_update(retained->pumps, (json_t *)values);
    json_object_update(retained->out, (json_t *)besides);
    json_object_foreach(retained->pumps, name, value)
    {
        if (!json_object_get(values, name) && !json_object_get(besides, name))
            continue;
        json_t *both = json_copy(value);
        json_object_set(both, row->beside,
                        json_object_get(retained->out, name));
        put_named(retained, row->below, name, both);
    }
}

static void put_each(struct retained *retained, const struct topic_row *row,
                     const json_t *now)
{
    const char *name;
    json_t *value;
    json_object_foreach(json_object_get(now, row->member), name, value)
    {
        put_named(retained, row->below, name, json_incref(value));
    }
}

void retained_now(struct retained *retained, const json_t *now)
{
    for (enum topic topic = 0; topic < TOPIC_COUNT; topic++) {
        const struct topic_row *row = &topic_rows[topic];
        json_t *value = row->member ? json_object_get(now, row->member) : NULL;
        if (row->beside)
            put_both(retained, row, now);
        else if (row->named)
            put_each(retained, row, now);
        else if (value)
            put(retained, row->below, json_incref(value));
    }
}

void retained_stranger(struct retained *retained, const char *below)
{
    if (json_object_size(retained->texts) > 0 &&
        !json_object_get(retained->texts, below))
        put(retained, below, NULL);
}

void retained_again(struct retained *retained)
{
    const char *below;
    json_t *text;
    json_object_foreach(retained->texts, below, text)
    {
        json_object_set_new(retained->changed, below, json_true());
    }
}
