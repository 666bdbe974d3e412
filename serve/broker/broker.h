/* The broker part: what controllers say goes to an MQTT broker, for whatever
 * else listens. Levels and outputs are retained, and overwritten while the
 * broker is away; events wait for it in the outbox of the history. */
#ifndef CUPLATCH_SERVE_BROKER_BROKER_H
#define CUPLATCH_SERVE_BROKER_BROKER_H

#include "../words/words.h"
#include "mqtt.h"

/* Events on their way at once, of one controller. */
#define BROKER_FLIGHT 32
#define BROKER_PAUSE_FIRST_S 2
#define BROKER_PAUSE_MOST_S 60

/* `words`: whether words are taken from there. */
struct broker_config {
    struct mqtt_config at;
    bool words;
};

struct broker;
struct past;

/* Reads [broker]; what is wrong is among the problems. */
void broker_read(struct broker_config *config,
                 const struct ini_section *section, struct problems *problems);

/* `history` is the history's file, beside which the identity is kept; `words`
 * live as long. */
struct broker *broker_open(struct event_base *base,
                           const struct broker_config *config,
                           const char *history, struct past *past,
                           struct words_desk *words);
void broker_close(struct broker *broker);

/* False while a site whose controller has said who it is cannot be told there:
 * the broker does not answer, or has somebody else by that id. */
bool broker_is_there(struct broker *broker);

/* One more controller: who hears of it, and through which link to tell it.
 * `name` must live as long. */
struct link_ear broker_ear(struct broker *broker, const char *name);
void broker_link(struct broker *broker, const struct link_ear *ear,
                 struct link *link);

#endif
