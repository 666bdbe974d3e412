/* The loop's half puts texts by their topics under a lock; a thread gives them
 * to the library's clients, one a controller, since each has a last will of its
 * own. The clients have threads of the library. */
#include "broker.h"

#include <fcntl.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

#include "../common/note.h"
#include "../common/pause.h"
#include "../past/past.h"
#include "inside.h"

#define TURN_NS 200000000L
/* For a foreign `here` to come, after it was asked for. */
#define CLASH_WAIT_S 1
/* One that has not answered for so long is told of. */
#define ANSWER_S 5

/* The loop's half */

static void take_id(struct client *client, const json_t *site)
{
    const char *id = json_string_value(json_object_get(site, "id"));
    snprintf(client->id, sizeof(client->id), "%s", id ? id : client->name);
}

static void heard(void *self, const json_t *line)
{
    struct client *client = self;
    const json_t *site = json_object_get(line, "site");
    const json_t *now = json_object_get(line, "now");
    pthread_mutex_lock(&client->broker->lock);
    if (json_is_object(site)) {
        take_id(client, site);
        retained_site(&client->retained, site);
    }
    if (json_is_object(now))
        retained_now(&client->retained, now);
    pthread_mutex_unlock(&client->broker->lock);
}

static void up(void *self, bool there)
{
    struct client *client = self;
    pthread_mutex_lock(&client->broker->lock);
    client->there = there;
    json_object_set_new(client->retained.changed, topic_below(TOPIC_HERE),
                        json_true());
    pthread_mutex_unlock(&client->broker->lock);
}

static int64_t since(void *self, const char *id, char *run)
{
    (void)self, (void)id;
    *run = '\0';
    return -1;
}

/* Our thread: clients */

static void forget(struct client *client)
{
    if (!client->mqtt)
        return;
    pthread_mutex_lock(&client->broker->lock);
    bool offline = client->stage == OFFLINE;
    pthread_mutex_unlock(&client->broker->lock);
    mosquitto_disconnect(client->mqtt);
    /* a connection is ended in its time, or its will would speak */
    mosquitto_loop_stop(client->mqtt, offline);
    mosquitto_destroy(client->mqtt);
    client->mqtt = NULL;
    pthread_mutex_lock(&client->broker->lock);
    client->stage = OFFLINE;
    client->refused = false;
    memset(client->flights, 0, sizeof(client->flights));
    pthread_mutex_unlock(&client->broker->lock);
    client->read = 0; /* what had not arrived is read once more */
}

static void try_later(struct client *client, int64_t now)
{
    forget(client);
    client->again_s = now + client->pause_s;
    client->pause_s = pause_longer(client->pause_s, BROKER_PAUSE_MOST_S);
    client->told = true;
}

static void call(struct client *client, int64_t now)
{
    const struct mqtt_config *at = &client->broker->config.at;
    char who[100];
    char topic[MQTT_TOPIC_SIZE];
    char wrong[200];
    snprintf(who, sizeof(who), "%.20s-%.60s", client->broker->identity,
             client->name);
    client->called_s = now;
    client->mqtt = mosquitto_new(who, true, client);
    if (!client->mqtt)
        abort();
    client_listen(client);
    client_topic(client, topic_below(TOPIC_HERE), topic);
    if (client->alone)
        mosquitto_will_set(client->mqtt, topic, 2, "no",
                           topic_rows[TOPIC_HERE].qos, true);
    if (mqtt_prepare(client->mqtt, at, client->old_protocol, wrong,
                     sizeof(wrong)) &&
        mqtt_begin(client->mqtt, at, wrong, sizeof(wrong)))
        return;
    if (!client->told)
        note("broker", client->name, "%s:%d: %s; trying again", at->host,
             at->port, wrong);
    try_later(client, now);
}

/* With the lock held: nobody else is here, so all is said, and again whatever
 * was said before. */
static void begin(struct client *client)
{
    client->stage = ONLINE;
    retained_again(&client->retained);
    json_object_set_new(client->retained.changed, topic_below(TOPIC_HERE),
                        json_true());
}

static enum stage stage_of(struct client *client, int64_t now, bool *refused)
{
    pthread_mutex_lock(&client->broker->lock);
    bool asked =
        client->stage == ASKING && now - client->asked_s > CLASH_WAIT_S;
    bool begins = asked && client->alone;
    if (begins)
        begin(client);
    client->alone = client->stage != CLASH && (client->alone || asked);
    if (client->stage == ONLINE)
        client_publish_changes(client);
    enum stage stage = client->stage;
    *refused = client->refused;
    pthread_mutex_unlock(&client->broker->lock);
    if (begins)
        note("broker", client->name, "is there");
    return stage;
}

static bool is_known(struct client *client)
{
    pthread_mutex_lock(&client->broker->lock);
    bool known = *client->id != '\0';
    pthread_mutex_unlock(&client->broker->lock);
    return known;
}

/* Whether it is there and may speak; else what comes next is begun. */
static bool may_speak(struct client *client, int64_t now)
{
    bool refused;
    bool had_will = client->alone;
    enum stage stage = stage_of(client, now, &refused);
    if (stage == CLASH)
        note("broker", client->name,
             "somebody else is %s there already; nothing is published",
             client->id);
    if (stage == ASKING && client->alone && !had_will)
        forget(client); /* and come again with a will */
    else if (refused || stage == CLASH)
        try_later(client, now);
    return client->mqtt && stage == ONLINE;
}

/* The library goes on trying by itself, and says nothing. */
static void tell_silence(struct client *client, int64_t now)
{
    const struct mqtt_config *config = &client->broker->config.at;
    char why[200];
    if (client->told || now - client->called_s < ANSWER_S)
        return;
    mqtt_why(why, sizeof(why), "does not answer");
    note("broker", client->name, "%s:%d: %s; trying again", config->host,
         config->port, why);
    client->told = true;
}

/* Whether it may be told of events. */
static bool turn(struct client *client, int64_t now)
{
    if (!client->mqtt && is_known(client) && now >= client->again_s)
        call(client, now);
    if (!client->mqtt)
        return false;
    if (!may_speak(client, now)) {
        if (client->mqtt)
            tell_silence(client, now);
        return false;
    }
    client->pause_s = BROKER_PAUSE_FIRST_S;
    client->called_s = now;
    client->told = false;
    return true;
}

static void answer(struct broker *broker)
{
    struct request *request;
    pthread_mutex_lock(&broker->lock);
    while ((request = requests_next(&broker->requests, REQUEST_ANSWERED))) {
        const struct client *client = request->of;
        if (client->mqtt && client->stage == ONLINE)
            request_send(request, client->mqtt);
        else
            request_free(request);
    }
    pthread_mutex_unlock(&broker->lock);
}

/* All of them, and one look into the history where any may speak. */
static void round_of(struct broker *broker, size_t count)
{
    char wrong[300];
    bool speaks[LINKS_MOST];
    bool any = false;
    int64_t now = (int64_t)time(NULL);
    for (size_t i = 0; i < count; i++) {
        speaks[i] = turn(&broker->clients[i], now);
        any |= speaks[i];
    }
    answer(broker);
    struct history *history =
        any ? history_open(broker->file, HISTORY_READ, wrong, sizeof(wrong))
            : NULL; /* what is wrong with it its own part tells */
    for (size_t i = 0; history && i < count; i++)
        if (speaks[i])
            client_publish_events(&broker->clients[i], history);
    history_close(history);
}

static void *run(void *self)
{
    static const struct timespec nap = {0, TURN_NS};
    struct broker *broker = self;
    bool ends = false;
    while (!ends) {
        nanosleep(&nap, NULL);
        pthread_mutex_lock(&broker->lock);
        ends = broker->ends;
        size_t count = broker->count;
        pthread_mutex_unlock(&broker->lock);
        round_of(broker, count);
    }
    return NULL;
}

/* The loop: words */

/* The loop alone frees what is out, or answers it. */
static void answered(void *self, enum words_end end, json_t *answer)
{
    struct request *request = self;
    struct client *client = request->of;
    (void)end;
    json_object_set(answer, "id", json_object_get(request->body, "id"));
    pthread_mutex_lock(&client->broker->lock);
    request->answer = answer;
    request->is = REQUEST_ANSWERED;
    pthread_mutex_unlock(&client->broker->lock);
}

/* "broker", and who it says that it is. */
static void pass_on(struct broker *broker, struct request *request)
{
    struct client *client = request->of;
    const char *says = json_string_value(json_object_get(request->body, "by"));
    char by[40];
    const struct words_from from = {client->name, by,       0,
                                    false,        answered, request};
    snprintf(by, sizeof(by), "broker%s%.32s", says ? " " : "",
             says ? says : "");
    words_say(broker->words, client->link, &from, request->body);
}

static void woken(evutil_socket_t fd, short what, void *self)
{
    struct broker *broker = self;
    char bytes[REQUESTS_MOST];
    struct request *request;
    (void)what;
    (void)!read(fd, bytes, sizeof(bytes));
    do {
        pthread_mutex_lock(&broker->lock);
        request = requests_next(&broker->requests, REQUEST_CAME);
        if (request)
            request->is = REQUEST_OUT;
        pthread_mutex_unlock(&broker->lock);
        if (request)
            pass_on(broker, request);
    } while (request);
}

/* Opening */

struct broker *broker_open(struct event_base *base,
                           const struct broker_config *config,
                           const char *history, struct past *past,
                           struct words_desk *words)
{
    struct broker *broker = calloc(1, sizeof(*broker));
    if (!broker || pipe2(broker->wake, O_CLOEXEC | O_NONBLOCK) != 0)
        abort();
    broker->words = words;
    broker->woken =
        event_new(base, broker->wake[0], EV_READ | EV_PERSIST, woken, broker);
    if (!broker->woken || event_add(broker->woken, NULL) != 0)
        abort();
    broker->config = *config;
    broker->file = history;
    broker->past = past;
    identity_know(history, broker->identity);
    past_sends(past);
    mosquitto_lib_init();
    pthread_mutex_init(&broker->lock, NULL);
    if (pthread_create(&broker->thread, NULL, run, broker) != 0)
        abort();
    return broker;
}

/* Each site is told not to be here any more, by us and not by its will. */
static void leave(struct client *client)
{
    if (client->mqtt && client->stage == ONLINE)
        client_publish(client, topic_below(TOPIC_HERE), "no");
    forget(client);
    retained_close(&client->retained);
}

bool broker_is_there(struct broker *broker)
{
    bool there = true;
    pthread_mutex_lock(&broker->lock);
    for (size_t i = 0; i < broker->count; i++)
        there = there && (*broker->clients[i].id == '\0' ||
                          broker->clients[i].stage == ONLINE);
    pthread_mutex_unlock(&broker->lock);
    return there;
}

void broker_close(struct broker *broker)
{
    pthread_mutex_lock(&broker->lock);
    broker->ends = true;
    pthread_mutex_unlock(&broker->lock);
    pthread_join(broker->thread, NULL);
    for (size_t i = 0; i < broker->count; i++)
        leave(&broker->clients[i]);
    for (size_t i = 0; i < REQUESTS_MOST; i++)
        request_free(&broker->requests.list[i]);
    event_free(broker->woken);
    close(broker->wake[0]);
    close(broker->wake[1]);
    mosquitto_lib_cleanup();
    pthread_mutex_destroy(&broker->lock);
    free(broker);
}

struct link_ear broker_ear(struct broker *broker, const char *name)
{
    pthread_mutex_lock(&broker->lock);
    struct client *client = &broker->clients[broker->count++];
    *client = (struct client){.broker = broker,
                              .name = name,
                              .retained = retained_open(),
                              .pause_s = BROKER_PAUSE_FIRST_S};
    pthread_mutex_unlock(&broker->lock);
    return (struct link_ear){since, heard, NULL, up, client};
}

void broker_link(struct broker *broker, const struct link_ear *ear,
                 struct link *link)
{
    (void)broker;
    ((struct client *)ear->self)->link = link;
}
