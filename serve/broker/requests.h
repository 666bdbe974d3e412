/* Words that come by a broker, on their way from the library's threads to the
 * loop and their answers back. Everything here is called with the broker's lock
 * held. */
#ifndef CUPLATCH_SERVE_BROKER_REQUESTS_H
#define CUPLATCH_SERVE_BROKER_REQUESTS_H

#include <jansson.h>
#include <mosquitto.h>

#include "mqtt.h"

#define REQUESTS_MOST 64
/* The longest that is looked at. */
#define REQUESTS_TEXT_MOST 4096
#define REQUESTS_MARK_MOST 64

enum request_is { REQUEST_FREE, REQUEST_CAME, REQUEST_OUT, REQUEST_ANSWERED };

/* `of` is who it is for. The answer goes to a topic with the mark (correlation
 * data) that the sender gave; `mark_size` 0: none. */
struct request {
    enum request_is is;
    void *of;
    json_t *body; /* null: it was no JSON */
    json_t *answer;
    char to[MQTT_TOPIC_SIZE];
    unsigned char mark[REQUESTS_MARK_MOST];
    size_t mark_size;
};

struct requests {
    struct request list[REQUESTS_MOST];
};

/* Takes a message. Its answer goes to `answers`, or to the response topic that
 * it names if that is below. False: no room, or too long. */
bool requests_take(struct requests *requests, void *of, const char *answers,
                   const struct mosquitto_message *message,
                   const mosquitto_property *properties);

/* The next that is so; null: none is. */
struct request *requests_next(struct requests *requests, enum request_is is);

/* Publishes the answer of one for somebody, if it has one; and it is free. */
void request_send(struct request *request, struct mosquitto *mqtt);
void request_free(struct request *request);

#endif
