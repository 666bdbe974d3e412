/* The loop's half puts texts by their topics under a lock; a thread gives them
 * to the library's clients, one a controller, since each has a last will of its
 * own. The clients have threads of the library. */
#include "broker.h"

#include <errno.h>
#include <mosquitto.h>
#include <mqtt_protocol.h>
#include <pthread.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "../history/outbox.h"
#include "identity.h"
#include "note.h"
#include "past.h"
#include "pause.h"
#include "retained.h"

#define TOPIC_SIZE 400
#define KEEPALIVE_S 20
#define TURN_NS 200000000L
/* For a foreign `here` to come, after it was asked for. */
#define CLASH_WAIT_S 1
/* One that has not answered for so long is told of. */
#define ANSWER_S 5

struct flight {
    int mid; /* 0: free */
    int64_t message;
};

enum stage { OFFLINE, ASKING, ONLINE, CLASH };

/* All of it behind the lock, but for what is of our thread. */
struct client {
    struct broker *broker;
    const char *name;
    char id[64];
    struct retained retained;
    bool there;
    enum stage stage;
    int64_t asked_s;
    bool refused;
    bool old_protocol;
    struct flight flights[BROKER_FLIGHT];
    /* of our thread */
    struct mosquitto *mqtt;
    int64_t read; /* the last message that was given to the library */
    int64_t again_s;
    int pause_s;
    int64_t called_s;
    bool told;
    bool alone; /* it was asked, without a last will, whether anybody is here */
};

struct broker {
    struct broker_config config;
    const char *file; /* the history */
    struct past *past;
    char identity[IDENTITY_SIZE];
    struct client clients[LINKS_MOST];
    size_t count;
    pthread_t thread;
    pthread_mutex_t lock;
    bool ends;
};

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
    json_object_set_new(client->retained.changed, "here", json_true());
    pthread_mutex_unlock(&client->broker->lock);
}

static int64_t since(void *self, const char *id, char *run)
{
    (void)self, (void)id;
    *run = '\0';
    return -1;
}

/* Of the library's threads */

static void topic_of(const struct client *client, const char *below,
                     char topic[TOPIC_SIZE])
{
    snprintf(topic, TOPIC_SIZE, "%s/%s/%.250s", client->broker->config.base,
             client->id, below);
}

/* First it is asked whether somebody else is this site; what is retained of it
 * comes with that. */
static void connected(struct mosquitto *mqtt, void *self, int why)
{
    struct client *client = self;
    static const char *const asked[] = {"here", "levels/+", "outputs/+"};
    char topic[TOPIC_SIZE];
    pthread_mutex_lock(&client->broker->lock);
    client->refused = why != 0;
    client->old_protocol |= why == MQTT_RC_UNSUPPORTED_PROTOCOL_VERSION ||
                            why == CONNACK_REFUSED_PROTOCOL_VERSION;
    client->stage = why == 0 ? ASKING : OFFLINE;
    client->asked_s = (int64_t)time(NULL);
    for (size_t i = 0; why == 0 && i < sizeof(asked) / sizeof(asked[0]); i++) {
        topic_of(client, asked[i], topic);
        mosquitto_subscribe(mqtt, NULL, topic, 1);
    }
    pthread_mutex_unlock(&client->broker->lock);
    if (why != 0)
        note("broker", client->name, "refused: %s",
             client->old_protocol ? "this protocol"
                                  : mosquitto_connack_string(why));
}

static void disconnected(struct mosquitto *mqtt, void *self, int why)
{
    struct client *client = self;
    (void)mqtt;
    pthread_mutex_lock(&client->broker->lock);
    bool was = client->stage == ONLINE;
    if (client->stage != CLASH)
        client->stage = OFFLINE;
    pthread_mutex_unlock(&client->broker->lock);
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
    if (strcmp(below, "here") == 0) {
        bool other = length > 3 && strncmp(text, "yes", 3) == 0 &&
                     (length != strlen(own) || memcmp(text, own, length) != 0);
        if (other && client->stage == ASKING)
            client->stage = CLASH;
    } else if (length > 0)
        retained_stranger(&client->retained, below);
}

static void said(struct mosquitto *mqtt, void *self,
                 const struct mosquitto_message *message)
{
    struct client *client = self;
    char topic[TOPIC_SIZE];
    (void)mqtt;
    pthread_mutex_lock(&client->broker->lock);
    topic_of(client, "", topic);
    if (message->retain && strncmp(message->topic, topic, strlen(topic)) == 0)
        take_retained(client, message->topic + strlen(topic), message->payload,
                      (size_t)message->payloadlen);
    pthread_mutex_unlock(&client->broker->lock);
}

static void arrived(struct mosquitto *mqtt, void *self, int mid)
{
    struct client *client = self;
    (void)mqtt;
    pthread_mutex_lock(&client->broker->lock);
    for (size_t i = 0; i < BROKER_FLIGHT; i++)
        if (client->flights[i].mid == mid && mid != 0) {
            past_sent(client->broker->past, client->flights[i].message);
            client->flights[i].mid = 0;
        }
    pthread_mutex_unlock(&client->broker->lock);
}

/* Our thread: clients */

static bool read_password(const char *path, char *line, int size)
{
    FILE *in = fopen(path, "re");
    bool read = in && fgets(line, size, in);
    if (in)
        fclose(in);
    if (read)
        line[strcspn(line, "\r\n")] = '\0';
    return read;
}

static bool is_set(const struct client *client, int code)
{
    if (code != MOSQ_ERR_SUCCESS && !client->told)
        note("broker", client->name, "%s", mosquitto_strerror(code));
    return code == MOSQ_ERR_SUCCESS;
}

/* False, told, where the password cannot be had. */
static bool set_user(struct client *client)
{
    const struct broker_config *config = &client->broker->config;
    char password[300] = "";
    if (!config->user)
        return true;
    if (config->password_file && !read_password(config->password_file, password,
                                                (int)sizeof(password))) {
        if (!client->told)
            note("broker", client->name, "%s: %s", config->password_file,
                 strerror(errno));
        return false;
    }
    int code = mosquitto_username_pw_set(
        client->mqtt, config->user, config->password_file ? password : NULL);
    explicit_bzero(password, sizeof(password));
    return is_set(client, code);
}

static bool set_tls(struct client *client)
{
    const struct broker_config *config = &client->broker->config;
    const char *machine = config->authority ? NULL : "/etc/ssl/certs";
    return !config->tls ||
           is_set(client, mosquitto_tls_set(client->mqtt, config->authority,
                                            machine, NULL, NULL, NULL));
}

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

static void set_callbacks(struct client *client)
{
    mosquitto_connect_callback_set(client->mqtt, connected);
    mosquitto_disconnect_callback_set(client->mqtt, disconnected);
    mosquitto_message_callback_set(client->mqtt, said);
    mosquitto_publish_callback_set(client->mqtt, arrived);
    mosquitto_reconnect_delay_set(client->mqtt, 1, BROKER_PAUSE_MOST_S, true);
    mosquitto_int_option(client->mqtt, MOSQ_OPT_PROTOCOL_VERSION,
                         client->old_protocol ? MQTT_PROTOCOL_V311
                                              : MQTT_PROTOCOL_V5);
}

static void call(struct client *client, int64_t now)
{
    const struct broker_config *config = &client->broker->config;
    char who[100];
    char topic[TOPIC_SIZE];
    snprintf(who, sizeof(who), "%.20s-%.60s", client->broker->identity,
             client->name);
    client->called_s = now;
    client->mqtt = mosquitto_new(who, true, client);
    if (!client->mqtt)
        abort();
    set_callbacks(client);
    topic_of(client, "here", topic);
    if (client->alone)
        mosquitto_will_set(client->mqtt, topic, 2, "no", 1, true);
    int code = set_user(client) && set_tls(client)
                   ? mosquitto_connect_async(client->mqtt, config->host,
                                             config->port, KEEPALIVE_S)
                   : MOSQ_ERR_AUTH;
    if (code == MOSQ_ERR_SUCCESS)
        code = mosquitto_loop_start(client->mqtt);
    if (code == MOSQ_ERR_SUCCESS)
        return;
    if (!client->told)
        note("broker", client->name, "%s:%d: %s; trying again", config->host,
             config->port,
             code == MOSQ_ERR_ERRNO ? strerror(errno)
                                    : mosquitto_strerror(code));
    try_later(client, now);
}

/* Our thread: what is to be said */

static void say(struct client *client, const char *below, const char *text)
{
    char topic[TOPIC_SIZE];
    topic_of(client, below, topic);
    mosquitto_publish(client->mqtt, NULL, topic, (int)strlen(text), text, 0,
                      true);
}

/* With the lock held. */
static void say_changes(struct client *client)
{
    const char *below;
    json_t *value;
    json_object_foreach(client->retained.changed, below, value)
    {
        const char *text =
            json_string_value(json_object_get(client->retained.texts, below));
        char here[IDENTITY_SIZE + 8];
        if (strcmp(below, "here") == 0) {
            snprintf(here, sizeof(here), "yes %s", client->broker->identity);
            text = client->there ? here : "no";
        }
        if (text)
            say(client, below, text);
    }
    json_object_clear(client->retained.changed);
}

static void take_message(void *self, int64_t message, const char *text)
{
    struct client *client = self;
    char topic[TOPIC_SIZE];
    struct flight *flight = NULL;
    int mid = 0;
    pthread_mutex_lock(&client->broker->lock);
    for (size_t i = 0; i < BROKER_FLIGHT && !flight; i++)
        if (client->flights[i].mid == 0)
            flight = &client->flights[i];
    topic_of(client, "events", topic);
    if (flight &&
        mosquitto_publish(client->mqtt, &mid, topic, (int)strlen(text), text, 1,
                          false) == MOSQ_ERR_SUCCESS) {
        *flight = (struct flight){mid, message};
        client->read = message;
    }
    pthread_mutex_unlock(&client->broker->lock);
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

static void say_events(struct client *client, struct history *history)
{
    int room = free_flights(client);
    if (room > 0)
        (void)outbox_read(history, client->id, client->read, room, take_message,
                          client);
}

/* With the lock held: nobody else is here, so all is said, and again whatever
 * was said before. */
static void begin(struct client *client)
{
    client->stage = ONLINE;
    retained_again(&client->retained);
    json_object_set_new(client->retained.changed, "here", json_true());
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
        say_changes(client);
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
    const struct broker_config *config = &client->broker->config;
    if (client->told || now - client->called_s < ANSWER_S)
        return;
    note("broker", client->name, "%s:%d: does not answer; trying again",
         config->host, config->port);
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
    struct history *history =
        any ? history_open(broker->file, HISTORY_READ, wrong, sizeof(wrong))
            : NULL; /* what is wrong with it its own part tells */
    for (size_t i = 0; history && i < count; i++)
        if (speaks[i])
            say_events(&broker->clients[i], history);
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

/* Opening */

struct broker *broker_open(const struct broker_config *config,
                           const char *history, struct past *past)
{
    struct broker *broker = calloc(1, sizeof(*broker));
    if (!broker)
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
        say(client, "here", "no");
    forget(client);
    retained_close(&client->retained);
}

void broker_close(struct broker *broker)
{
    pthread_mutex_lock(&broker->lock);
    broker->ends = true;
    pthread_mutex_unlock(&broker->lock);
    pthread_join(broker->thread, NULL);
    for (size_t i = 0; i < broker->count; i++)
        leave(&broker->clients[i]);
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
