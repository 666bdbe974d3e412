/* What a broker is told, by our thread. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "inside.h"

void client_publish(struct client *client, const char *below, const char *text)
{
    char topic[MQTT_TOPIC_SIZE];
    enum topic which = topic_of(below, NULL);
    client_topic(client, below, topic);
    mosquitto_publish(client->mqtt, NULL, topic, (int)strlen(text), text,
                      which < TOPIC_COUNT ? topic_rows[which].qos : 0, true);
}

/* With the lock held. */
void client_publish_changes(struct client *client)
{
    const char *below;
    json_t *value;
    json_object_foreach(client->retained.changed, below, value)
    {
        const char *text =
            json_string_value(json_object_get(client->retained.texts, below));
        char here[IDENTITY_SIZE + 8];
        if (topic_of(below, NULL) == TOPIC_HERE) {
            snprintf(here, sizeof(here), "yes %s", client->broker->identity);
            text = client->there ? here : "no";
        }
        if (text)
            client_publish(client, below, text);
    }
    json_object_clear(client->retained.changed);
}

static struct flight *free_flight(struct client *client)
{
    for (size_t i = 0; i < BROKER_FLIGHT; i++)
        if (client->flights[i].mid == 0)
            return &client->flights[i];
    return NULL;
}

/* False when it could not be handed over. */
static bool say_once(struct client *client, enum topic which, const char *text,
                     int64_t message)
{
    char topic[MQTT_TOPIC_SIZE];
    int mid = 0;
    pthread_mutex_lock(&client->broker->lock);
    struct flight *flight = free_flight(client);
    client_topic(client, topic_below(which), topic);
    bool done =
        flight &&
        mosquitto_publish(client->mqtt, &mid, topic, (int)strlen(text), text,
                          topic_rows[which].qos, false) == MOSQ_ERR_SUCCESS;
    if (done)
        *flight = (struct flight){mid, message};
    pthread_mutex_unlock(&client->broker->lock);
    return done;
}

static void take_message(void *self, int64_t message, const char *text)
{
    struct client *client = self;
    if (say_once(client, TOPIC_EVENTS, text, message))
        client->read = message;
}

static int free_flights(struct client *client)
{
    int count = 0;
    pthread_mutex_lock(&client->broker->lock);
    for (size_t i = 0; i < BROKER_FLIGHT; i++)
        count += client->flights[i].mid == 0;
    pthread_mutex_unlock(&client->broker->lock);
    return count;
}

/* What somebody missed: {"after", "event"}, so that it can see that none is
 * between; and {"after"} alone, when that was all. */
static bool say_missed(struct client *client, json_t *event, int64_t gone)
{
    json_t *missed = json_pack("{s:I, s:O*}", "after",
                               (json_int_t)client->after, "event", event);
    if (gone > 0)
        json_object_set_new(missed, "gone", json_integer((json_int_t)gone));
    char *text = json_dumps(missed, JSON_COMPACT | JSON_REAL_PRECISION(10));
    if (!text)
        abort();
    bool done = say_once(client, TOPIC_MISSED, text, 0);
    free(text);
    json_decref(missed);
    return done;
}

static void take_missed(void *self, int64_t message, const char *text)
{
    struct client *client = self;
    json_t *event = json_loads(text, 0, NULL);
    int64_t number = json_integer_value(json_object_get(event, "number"));
    int64_t gone = client->found ? 0 : number - client->after - 1;
    if (say_missed(client, event, gone)) {
        client->missed = message;
        client->after = number;
        client->found = true;
    }
    json_decref(event);
}

/* With a new question it begins anew. */
static bool is_asked(struct client *client, struct history *history)
{
    pthread_mutex_lock(&client->broker->lock);
    bool asked = client->asked_again;
    int64_t since = client->again;
    client->asked_again = false;
    pthread_mutex_unlock(&client->broker->lock);
    if (asked) {
        client->after = since;
        client->missed = outbox_find(history, client->id, since);
        client->found = false;
        client->says_missed = true;
    }
    return client->says_missed;
}

/* All that somebody missed, until there is no more of it. */
static void say_again(struct client *client, struct history *history)
{
    if (!is_asked(client, history))
        return;
    int64_t before = client->missed;
    int room = free_flights(client);
    if (room > 0)
        (void)outbox_again(history, client->id, before, room, take_missed,
                           client);
    if (room > 0 && client->missed == before)
        client->says_missed = !say_missed(client, NULL, 0);
}

void client_publish_events(struct client *client, struct history *history)
{
    say_again(client, history);
    int room = free_flights(client);
    if (room > 0)
        (void)outbox_read(history, client->id, client->read, room, take_message,
                          client);
}
