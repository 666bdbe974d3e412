/* Words that come by a broker, on their way from the library's threads to the
 * loop and their answers back. Everything here is called with the broker's lock
 * held. */
#ifndef CUPLATCH_SERVE_BROKER_REQUESTS_H
#define CUPLATCH_SERVE_BROKER_REQUESTS_H

#include <jansson.h>
#include <mosquitto.h>

#include "mqtt.h"

#define LETTERS_MOST 64
/* The longest that is looked at. */
#define LETTERS_TEXT_MOST 4096
#define LETTERS_MARK_MOST 64

enum letter_is { LETTER_FREE, LETTER_CAME, LETTER_OUT, LETTER_ANSWERED };

/* `of` is who it is for. The answer goes to a topic with the mark (correlation
 * data) that the sender gave; `mark_size` 0: none. */
struct letter {
    enum letter_is is;
    void *of;
    json_t *body; /* null: it was no JSON */
    json_t *answer;
    char to[MQTT_TOPIC_SIZE];
    unsigned char mark[LETTERS_MARK_MOST];
    size_t mark_size;
};

struct letters {
    struct letter list[LETTERS_MOST];
};

/* Takes a message. Its answer goes to `answers`, or to the response topic that
 * it names if that is below. False: no room, or too long. */
bool letters_take(struct letters *letters, void *of, const char *answers,
                  const struct mosquitto_message *message,
                  const mosquitto_property *properties);

/* The next that is so; null: none is. */
struct letter *letters_next(struct letters *letters, enum letter_is is);

/* Publishes the answer of one for somebody, if it has one; and it is free. */
void letter_send(struct letter *letter, struct mosquitto *mqtt);
void letter_free(struct letter *letter);

#endif
