/* The loop's half puts texts by their topics under a lock; a thread gives them
 * to the library's clients, one a controller, since each has a last will of its
 * own. The clients have threads of the library. */
#include "broker.h"

#include <fcntl.h>
#include <mosquitto.h>
#include <mqtt_protocol.h>
#include <pthread.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

#include "../history/outbox.h"
#include "identity.h"
#include "letters.h"
#include "note.h"
#include "past.h"
#include "pause.h"
#include "retained.h"

#define TURN_NS 200000000L
/* For a foreign `here` to come, after it was asked for. */
#define CLASH_WAIT_S 1
/* One that has not answered for so long is told of. */
#define ANSWER_S 5

/* `message` is that of the outbox; 0: it is said once more. */
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
    bool asked_again; /* for all after an event, once more */
    int64_t again;
    struct link *link; /* of the loop */
    /* of our thread */
    struct mosquitto *mqtt;
    int64_t read;     /* the last message that was given to the library */
    bool says_missed; /* and of which it says how it goes on: */
    bool found;       /* the event before is known, */
    int64_t after;    /* its number */
    int64_t missed;   /* and its message */
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
    struct words_desk *words;
    int wake[2]; /* a byte: there are letters */
    struct event *woken;
    struct letters letters;
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
                     char topic[MQTT_TOPIC_SIZE])
{
    mqtt_topic(&client->broker->config.at, client->id, below, topic);
}

/* Nothing that is retained is a word. */
static void listen_for(struct client *client, struct mosquitto *mqtt,
                       const char *below)
{
    char topic[MQTT_TOPIC_SIZE];
    topic_of(client, below, topic);
    mosquitto_subscribe_v5(mqtt, NULL, topic, 1,
                           client->old_protocol
                               ? 0
                               : MQTT_SUB_OPT_SEND_RETAIN_NEVER |
                                     MQTT_SUB_OPT_RETAIN_AS_PUBLISHED,
                           NULL);
}

/* First it is asked whether somebody else is this site; what is retained of it
 * comes with that. */
static void connected(struct mosquitto *mqtt, void *self, int why)
{
    struct client *client = self;
    static const char *const asked[] = {"here", "levels/+", "outputs/+",
                                        "duties/+", "days/+"};
    char topic[MQTT_TOPIC_SIZE];
    pthread_mutex_lock(&client->broker->lock);
    client->refused = why != 0;
    client->old_protocol |= mqtt_is_old(why);
    client->stage = why == 0 ? ASKING : OFFLINE;
    client->asked_s = (int64_t)time(NULL);
    for (size_t i = 0; why == 0 && i < sizeof(asked) / sizeof(asked[0]); i++) {
        topic_of(client, asked[i], topic);
        mosquitto_subscribe(mqtt, NULL, topic, 1);
    }
    if (why == 0)
        listen_for(client, mqtt, "again");
    if (why == 0 && client->broker->config.words)
        listen_for(client, mqtt, "words");
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

/* With the lock held: somebody missed events, and says after which. */
static void take_again(struct client *client,
                       const struct mosquitto_message *message)
{
    json_t *body =
        json_loadb(message->payload, (size_t)message->payloadlen, 0, NULL);
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
    topic_of(client, "answers", answers);
    if (client->stage != ONLINE || !broker->config.words)
        return;
    if (letters_take(&broker->letters, client, answers, message, properties))
        (void)!write(broker->wake[1], "", 1);
    else
        note("broker", client->name, "words that are too long or too many");
}

/* With the lock held. */
static void take_said(struct client *client, const char *below,
                      const struct mosquitto_message *message,
                      const mosquitto_property *properties)
{
    bool words = strcmp(below, "words") == 0;
    if (message->retain && words)
        note("broker", client->name,
             "retained words are nobody's, and are refused");
    else if (message->retain)
        take_retained(client, below, message->payload,
                      (size_t)message->payloadlen);
    else if (words)
        take_words(client, message, properties);
    else if (strcmp(below, "again") == 0)
        take_again(client, message);
}

static void said(struct mosquitto *mqtt, void *self,
                 const struct mosquitto_message *message,
                 const mosquitto_property *properties)
{
    struct client *client = self;
    char topic[MQTT_TOPIC_SIZE];
    (void)mqtt;
    pthread_mutex_lock(&client->broker->lock);
    topic_of(client, "", topic);
    if (strncmp(message->topic, topic, strlen(topic)) == 0)
        take_said(client, message->topic + strlen(topic), message, properties);
    pthread_mutex_unlock(&client->broker->lock);
}

static void arrived(struct mosquitto *mqtt, void *self, int mid)
{
    struct client *client = self;
    (void)mqtt;
    pthread_mutex_lock(&client->broker->lock);
    for (size_t i = 0; i < BROKER_FLIGHT; i++)
        if (client->flights[i].mid == mid && mid != 0) {
            if (client->flights[i].message > 0)
                past_sent(client->broker->past, client->flights[i].message);
            client->flights[i].mid = 0;
        }
    pthread_mutex_unlock(&client->broker->lock);
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

static void set_callbacks(struct client *client)
{
    mosquitto_connect_callback_set(client->mqtt, connected);
    mosquitto_disconnect_callback_set(client->mqtt, disconnected);
    mosquitto_message_v5_callback_set(client->mqtt, said);
    mosquitto_publish_callback_set(client->mqtt, arrived);
    mosquitto_reconnect_delay_set(client->mqtt, 1, BROKER_PAUSE_MOST_S, true);
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
    set_callbacks(client);
    topic_of(client, "here", topic);
    if (client->alone)
        mosquitto_will_set(client->mqtt, topic, 2, "no", 1, true);
    if (mqtt_prepare(client->mqtt, at, client->old_protocol, wrong,
                     sizeof(wrong)) &&
        mqtt_begin(client->mqtt, at, wrong, sizeof(wrong)))
        return;
    if (!client->told)
        note("broker", client->name, "%s:%d: %s; trying again", at->host,
             at->port, wrong);
    try_later(client, now);
}

/* Our thread: what is to be said */

static void say(struct client *client, const char *below, const char *text)
{
    char topic[MQTT_TOPIC_SIZE];
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

static struct flight *free_flight(struct client *client)
{
    for (size_t i = 0; i < BROKER_FLIGHT; i++)
        if (client->flights[i].mid == 0)
            return &client->flights[i];
    return NULL;
}

/* False when it could not be handed over. */
static bool say_once(struct client *client, const char *below, const char *text,
                     int64_t message)
{
    char topic[MQTT_TOPIC_SIZE];
    int mid = 0;
    pthread_mutex_lock(&client->broker->lock);
    struct flight *flight = free_flight(client);
    topic_of(client, below, topic);
    bool done = flight &&
                mosquitto_publish(client->mqtt, &mid, topic, (int)strlen(text),
                                  text, 1, false) == MOSQ_ERR_SUCCESS;
    if (done)
        *flight = (struct flight){mid, message};
    pthread_mutex_unlock(&client->broker->lock);
    return done;
}

static void take_message(void *self, int64_t message, const char *text)
{
    struct client *client = self;
    if (say_once(client, "events", text, message))
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
    bool done = say_once(client, "missed", text, 0);
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

static void say_events(struct client *client, struct history *history)
{
    say_again(client, history);
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
    const struct mqtt_config *config = &client->broker->config.at;
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

static void answer(struct broker *broker)
{
    struct letter *letter;
    pthread_mutex_lock(&broker->lock);
    while ((letter = letters_next(&broker->letters, LETTER_ANSWERED))) {
        const struct client *client = letter->of;
        if (client->mqtt && client->stage == ONLINE)
            letter_send(letter, client->mqtt);
        else
            letter_free(letter);
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

/* The loop: words */

/* The loop alone frees what is out, or answers it. */
static void answered(void *self, enum words_end end, json_t *answer)
{
    struct letter *letter = self;
    struct client *client = letter->of;
    (void)end;
    json_object_set(answer, "id", json_object_get(letter->body, "id"));
    pthread_mutex_lock(&client->broker->lock);
    letter->answer = answer;
    letter->is = LETTER_ANSWERED;
    pthread_mutex_unlock(&client->broker->lock);
}

/* "broker", and who it says that it is. */
static void pass_on(struct broker *broker, struct letter *letter, bool there)
{
    struct client *client = letter->of;
    const char *says = json_string_value(json_object_get(letter->body, "by"));
    char by[40];
    const struct words_from from = {by, 0, false, answered, letter};
    snprintf(by, sizeof(by), "broker%s%.32s", says ? " " : "",
             says ? says : "");
    words_say(broker->words, there ? client->link : NULL, &from, letter->body);
}

static void woken(evutil_socket_t fd, short what, void *self)
{
    struct broker *broker = self;
    char bytes[LETTERS_MOST];
    struct letter *letter;
    (void)what;
    (void)!read(fd, bytes, sizeof(bytes));
    do {
        bool there = false;
        pthread_mutex_lock(&broker->lock);
        letter = letters_next(&broker->letters, LETTER_CAME);
        if (letter) {
            letter->is = LETTER_OUT;
            there = ((const struct client *)letter->of)->there;
        }
        pthread_mutex_unlock(&broker->lock);
        if (letter)
            pass_on(broker, letter, there);
    } while (letter);
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
    for (size_t i = 0; i < LETTERS_MOST; i++)
        letter_free(&broker->letters.list[i]);
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
