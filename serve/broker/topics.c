#include "topics.h"

#include <stddef.h>
#include <stdio.h>
#include <string.h>

const struct topic_row topic_rows[TOPIC_COUNT] = {
#define X(topic, below, way, named, qos, member, beside)                       \
    {below, TOPIC_##way, named, qos, member, beside},
    TOPICS(X)
#undef X
};

/* Answers go below their own, too, to whoever asked. */
static bool may_have_name(enum topic topic)
{
    return topic_rows[topic].named || topic == TOPIC_ANSWERS;
}

/* The one that begins with so many letters. */
static enum topic find(const char *letters, size_t length)
{
    enum topic topic = 0;
    while (topic < TOPIC_COUNT &&
           (strlen(topic_below(topic)) != length ||
            strncmp(topic_below(topic), letters, length) != 0))
        topic++;
    return topic;
}

enum topic topic_of(const char *below, const char **name)
{
    size_t length = strcspn(below, "/");
    const char *after = below[length] ? below + length + 1 : "";
    enum topic topic = find(below, length);
    if (topic == TOPIC_COUNT || (topic_rows[topic].named && !*after) ||
        (!may_have_name(topic) && below[length]))
        return TOPIC_COUNT;
    if (name)
        *name = after;
    return topic;
}

void topic_filter(enum topic topic, char filter[TOPIC_FILTER_SIZE])
{
    snprintf(filter, TOPIC_FILTER_SIZE, "%s%s", topic_below(topic),
             topic_rows[topic].named ? "/+" : "");
}

void topic_answers(const char *whose, char below[TOPIC_ANSWERS_SIZE])
{
    snprintf(below, TOPIC_ANSWERS_SIZE, "%s%s%.60s", topic_below(TOPIC_ANSWERS),
             whose ? "/" : "", whose ? whose : "");
}
