/* What a broker says, by threads of the library: whether somebody else is this
 * site, words, and that somebody missed events. */
#include <mqtt_protocol.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

#include "../common/clean.h"
#include "../common/note.h"
#include "../past/past.h"
#include "inside.h"

void client_topic(const struct client *client, const char *below,
                  char topic[MQTT_TOPIC_SIZE])
{
    mqtt_topic(&client->broker->config.at, client->id, below, topic);
}

/* What the library tells is heard under the lock by a thread that may be ended
 * from outside, but not meanwhile: the lock would be held for ever. */
static int hold(struct client *client)
{
    int was;
    pthread_setcancelstate(PTHREAD_CANCEL_DISABLE, &was);
    pthread_mutex_lock(&client->broker->lock);
    return was;
}

static void let_go(struct client *client, int was)
{
    pthread_mutex_unlock(&client->broker->lock);
    pthread_setcancelstate(was, &was);
}

/* Nothing that is retained is a word. */
static void listen_for(struct client *client, struct mosquitto *mqtt,
                       const char *below)
{
    char topic[MQTT_TOPIC_SIZE];
    client_topic(client, below, topic);
    mosquitto_subscribe_v5(mqtt, NULL, topic, 1,
                           client->old_protocol
                               ? 0
                               : MQTT_SUB_OPT_SEND_RETAIN_NEVER |
                                     MQTT_SUB_OPT_RETAIN_AS_PUBLISHED,
                           NULL);
}

/* Whether somebody else is, and what of things is retained. */
static void look_who_is_here(const struct client *client,
                             struct mosquitto *mqtt)
{
    for (enum topic which = 0; which < TOPIC_COUNT; which++) {
        char filter[TOPIC_FILTER_SIZE];
        char topic[MQTT_TOPIC_SIZE];
        if (!topic_rows[which].named && which != TOPIC_HERE)
            continue;
        topic_filter(which, filter);
        client_topic(client, filter, topic);
        mosquitto_subscribe(mqtt, NULL, topic, topic_rows[which].qos);
    }
}

/* First it is asked whether somebody else is this site; what is retained of it
 * comes with that. */
static void connected(struct mosquitto *mqtt, void *self, int why)
{
    struct client *client = self;
    int ends = hold(client);
    client->refused = why != 0;
    client->old_protocol |= mqtt_is_old(why);
    client->stage = why == 0 ? ASKING : OFFLINE;
    client->asked_s = (int64_t)time(NULL);
    if (why == 0) {
        look_who_is_here(client, mqtt);
        listen_for(client, mqtt, topic_below(TOPIC_AGAIN));
    }
    if (why == 0 && client->broker->config.words)
        listen_for(client, mqtt, topic_below(TOPIC_WORDS));
    let_go(client, ends);
    if (why != 0)
        note("broker", client->name, "refused: %s",
             client->old_protocol ? "this protocol"
                                  : mosquitto_connack_string(why));
}

static void disconnected(struct mosquitto *mqtt, void *self, int why)
{
    struct client *client = self;
    (void)mqtt;
    int ends = hold(client);
    bool was = client->stage == ONLINE;
    if (client->stage != CLASH)
        client->stage = OFFLINE;
    let_go(client, ends);
    if (was && why != 0)
        note("broker", client->name, "went away; trying again");
}

/* With the lock held: what is retained of a site, by whoever was here before.
 */
static void take_retained(struct client *client, const char *below,
                          const char *text, size_t length)
{
    char own[IDENTITY_SIZE + 8];
    snprintf(own, sizeof(own), "yes %s", client->broker->identity);
    if (topic_of(below, NULL) == TOPIC_HERE) {
        bool other = length > 3 && strncmp(text, "yes", 3) == 0 &&
                     (length != strlen(own) || memcmp(text, own, length) != 0);
        if (other && client->stage == ASKING)
            client->stage = CLASH;
    } else if (length > 0)
        retained_stranger(&client->retained, below);
}

/* With the lock held: somebody missed events, and says after which. */
static void take_again(struct client *client,
                       const struct mosquitto_message *message)
{
    json_t *body = clean_read(message->payload, (size_t)message->payloadlen);
    const json_t *since = json_object_get(body, "since");
    if (json_is_integer(since)) {
        int64_t after = json_integer_value(since);
        if (!client->asked_again || after < client->again)
            client->again = after;
        client->asked_again = true;
    }
    json_decref(body);
}

/* With the lock held. */
static void take_words(struct client *client,
                       const struct mosquitto_message *message,
                       const mosquitto_property *properties)
{
    char answers[MQTT_TOPIC_SIZE];
    struct broker *broker = client->broker;
    client_topic(client, topic_below(TOPIC_ANSWERS), answers);
    if (client->stage != ONLINE || !broker->config.words)
        return;
    if (requests_take(&broker->requests, client, answers, message, properties))
        (void)!write(broker->wake[1], "", 1);
    else
        note("broker", client->name, "words that are too long or too many");
}

/* With the lock held. */
static void take_said(struct client *client, const char *below,
                      const struct mosquitto_message *message,
                      const mosquitto_property *properties)
{
    enum topic which = topic_of(below, NULL);
    bool words = which == TOPIC_WORDS;
    const struct refusal refusal = {
        "broker", client->name, "broker", "retained",
        "retained words are nobody's, and are refused"};
    if (message->retain && words)
        past_refuse(client->broker->past, &refusal);
    else if (message->retain)
        take_retained(client, below, message->payload,
                      (size_t)message->payloadlen);
    else if (words)
        take_words(client, message, properties);
    else if (which == TOPIC_AGAIN)
        take_again(client, message);
}

static void said(struct mosquitto *mqtt, void *self,
                 const struct mosquitto_message *message,
                 const mosquitto_property *properties)
{
    struct client *client = self;
    char topic[MQTT_TOPIC_SIZE];
    (void)mqtt;
    int ends = hold(client);
    client_topic(client, "", topic);
    if (strncmp(message->topic, topic, strlen(topic)) == 0)
        take_said(client, message->topic + strlen(topic), message, properties);
    let_go(client, ends);
}

static void arrived(struct mosquitto *mqtt, void *self, int mid)
{
    struct client *client = self;
    (void)mqtt;
    int ends = hold(client);
    for (size_t i = 0; i < BROKER_FLIGHT; i++)
        if (client->flights[i].mid == mid && mid != 0) {
            if (client->flights[i].message > 0)
                past_sent(client->broker->past, client->flights[i].message);
            client->flights[i].mid = 0;
        }
    let_go(client, ends);
}

void client_listen(struct client *client)
{
    mosquitto_connect_callback_set(client->mqtt, connected);
    mosquitto_disconnect_callback_set(client->mqtt, disconnected);
    mosquitto_message_v5_callback_set(client->mqtt, said);
    mosquitto_publish_callback_set(client->mqtt, arrived);
    mosquitto_reconnect_delay_set(client->mqtt, 1, BROKER_PAUSE_MOST_S, true);
}
