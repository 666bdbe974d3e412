/* The topics of a site, below BASE/SITE: one list for all who publish, follow
 * or take them apart. docs/reference/broker.md has the same. */
#ifndef CUPLATCH_SERVE_BROKER_TOPICS_H
#define CUPLATCH_SERVE_BROKER_TOPICS_H

#include <stdbool.h>

/* STANDS: the site says it, and the broker retains it; TELLS: the site says it
 * once; ASKED: others say it to the site. */
enum topic_way { TOPIC_STANDS, TOPIC_TELLS, TOPIC_ASKED };

/* X(topic, below, way, named, qos, member, beside)
 *   named   each thing has one of its own, BELOW/NAME
 *   qos     at which it is published, and followed
 *   member  of the controller's `now` which it carries; null: none
 *   beside  another, of the same name, that goes within it under this key */
#define TOPICS(X)                                                              \
    X(HERE, "here", STANDS, false, 1, NULL, NULL)                              \
    X(SITE, "site", STANDS, false, 0, NULL, NULL)                              \
    X(LEVELS, "levels", STANDS, true, 0, "levels", NULL)                       \
    X(OUTPUTS, "outputs", STANDS, true, 0, "pumps", "out")                     \
    X(DUTIES, "duties", STANDS, true, 0, "duties", NULL)                       \
    X(DAYS, "days", STANDS, true, 0, "days", NULL)                             \
    X(STANDING, "standing", STANDS, false, 0, "standing", NULL)                \
    X(EVENTS, "events", TELLS, false, 1, NULL, NULL)                           \
    X(MISSED, "missed", TELLS, false, 1, NULL, NULL)                           \
    X(ANSWERS, "answers", TELLS, false, 1, NULL, NULL)                         \
    X(AGAIN, "again", ASKED, false, 1, NULL, NULL)                             \
    X(WORDS, "words", ASKED, false, 1, NULL, NULL)

enum topic {
#define X(topic, below, way, named, qos, member, beside) TOPIC_##topic,
    TOPICS(X)
#undef X
        TOPIC_COUNT
};

struct topic_row {
    const char *below;
    enum topic_way way;
    bool named;
    int qos;
    const char *member, *beside;
};

extern const struct topic_row topic_rows[TOPIC_COUNT];

static inline const char *topic_below(enum topic topic)
{
    return topic_rows[topic].below;
}

/* Which one a text below the site's is, and the name in it, "" where there is
 * none (`name` may be null). Answers have whose they are there, if anything.
 * TOPIC_COUNT: none of ours. */
enum topic topic_of(const char *below, const char **name);

/* What follows it whole: "levels/+", "site". */
#define TOPIC_FILTER_SIZE 20
void topic_filter(enum topic topic, char filter[TOPIC_FILTER_SIZE]);

/* Where the answers for somebody are to come: "answers/WHOSE", or that of all,
 * where the protocol has no response topics (null). */
#define TOPIC_ANSWERS_SIZE 80
void topic_answers(const char *whose, char below[TOPIC_ANSWERS_SIZE]);

#endif
