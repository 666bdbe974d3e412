/* A thread of our own is the library's loop, and puts what comes into a list;
 * the event loop takes all of it at once. One file: both ends of one list, on
 * either side of a lock. */
#include "afar.h"

#include <fcntl.h>
#include <pthread.h>
#include <search.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

#include "../broker/identity.h"
#include "../broker/topics.h"
#include "../common/clean.h"
#include "../common/note.h"
#include "../common/pause.h"
#include "distant.h"

/* For a thread that waits for a name or a handshake, at the end. */
#define PATIENCE_S 2

/* A message; with no topic it tells that the broker is gone. */
struct came {
    struct came *next;
    char *topic;
    char *text;
    size_t length;
};

/* `ears` null: nobody has spoken for it yet. */
struct yard {
    char id[64];
    struct distant *distant;
    void *ears;
    struct yard *next;
};

struct afar {
    struct afar_config config;
    struct afar_ears ears;
    char identity[IDENTITY_SIZE];
    /* of the loop */
    struct event *woken;
    struct event *beat;
    void *by_id; /* a tree of yards */
    struct yard *yards;
    size_t count;
    bool wants_retained;
    bool told_most;
    /* shared */
    int wake[2];
    pthread_mutex_t lock;
    pthread_cond_t more;
    struct mosquitto *mqtt; /* null: there is no line */
    struct came *first, **last;
    size_t waiting;
    size_t waiting_bytes;
    uint64_t dropped;
    bool ends;
    /* of the thread */
    pthread_t thread;
    bool old_protocol;
    bool told;
    int pause_s;
};

/* The thread */

static void free_came(struct came *came)
{
    free(came->topic);
    free(came->text);
    free(came);
}

static void push(struct afar *afar, struct came *came)
{
    pthread_mutex_lock(&afar->lock);
    bool room =
        !came->topic || (afar->waiting < AFAR_WAITING_MOST &&
                         afar->waiting_bytes + came->length < AFAR_BYTES_MOST);
    if (room) {
        afar->waiting_bytes += came->length;
        *afar->last = came;
        afar->last = &came->next;
        if (afar->waiting++ == 0)
            (void)!write(afar->wake[1], "", 1);
    } else
        afar->dropped++;
    pthread_mutex_unlock(&afar->lock);
    if (!room)
        free_came(came);
}

static struct came *new_came(void)
{
    struct came *came = calloc(1, sizeof(*came));
    if (!came)
        abort();
    return came;
}

static void said(struct mosquitto *mqtt, void *self,
                 const struct mosquitto_message *message)
{
    (void)mqtt;
    if (message->payloadlen > AFAR_TEXT_MOST)
        return; /* no site says so much at once */
    struct came *came = new_came();
    came->topic = strdup(message->topic);
    came->length = (size_t)message->payloadlen;
    came->text = malloc(came->length + 1);
    if (!came->topic || !came->text)
        abort();
    if (came->length > 0)
        memcpy(came->text, message->payload, came->length);
    came->text[came->length] = '\0';
    push(self, came);
}

/* With what is retained, all of it. */
static void subscribe(const struct afar *afar, struct mosquitto *mqtt)
{
    char topic[MQTT_TOPIC_SIZE];
    char below[TOPIC_ANSWERS_SIZE];
    for (enum topic which = 0; which < TOPIC_COUNT; which++) {
        if (topic_rows[which].way == TOPIC_ASKED || which == TOPIC_ANSWERS)
            continue;
        topic_filter(which, below);
        mqtt_topic(&afar->config.at, "+", below, topic);
        mosquitto_subscribe(mqtt, NULL, topic, topic_rows[which].qos);
    }
    topic_answers(afar->old_protocol ? NULL : afar->identity, below);
    mqtt_topic(&afar->config.at, "+", below, topic);
    mosquitto_subscribe(mqtt, NULL, topic, topic_rows[TOPIC_ANSWERS].qos);
}

static void connected(struct mosquitto *mqtt, void *self, int why)
{
    struct afar *afar = self;
    afar->old_protocol |= mqtt_is_old(why);
    if (why == 0) {
        note("afar", afar->config.name, "the broker is there");
        afar->pause_s = AFAR_PAUSE_FIRST_S;
        afar->told = false;
        subscribe(afar, mqtt);
    } else if (!afar->told) {
        note("afar", afar->config.name, "refused: %s",
             afar->old_protocol ? "this protocol"
                                : mosquitto_connack_string(why));
        afar->told = true;
    }
}

static void disconnected(struct mosquitto *mqtt, void *self, int why)
{
    struct afar *afar = self;
    if (why != 0 && !afar->told)
        note("afar", afar->config.name, "the broker went away; trying again");
    afar->told |= why != 0;
    mosquitto_disconnect(mqtt); /* the loop ends, and we begin anew */
    push(afar, new_came());
}

static struct mosquitto *new_client(struct afar *afar)
{
    char who[60];
    snprintf(who, sizeof(who), "%.20s-afar", afar->identity);
    struct mosquitto *mqtt = mosquitto_new(who, true, afar);
    if (!mqtt)
        abort();
    mosquitto_threaded_set(mqtt, true);
    mosquitto_connect_callback_set(mqtt, connected);
    mosquitto_disconnect_callback_set(mqtt, disconnected);
    mosquitto_message_callback_set(mqtt, said);
    return mqtt;
}

static void set_line(struct afar *afar, struct mosquitto *mqtt)
{
    pthread_mutex_lock(&afar->lock);
    afar->mqtt = mqtt;
    pthread_mutex_unlock(&afar->lock);
}

/* As long as a connection holds. */
static void live(struct afar *afar)
{
    char wrong[200] = "";
    const struct mqtt_config *at = &afar->config.at;
    struct mosquitto *mqtt = new_client(afar);
    if (mqtt_prepare(mqtt, at, afar->old_protocol, wrong, sizeof(wrong)) &&
        mqtt_connect(mqtt, at, wrong, sizeof(wrong))) {
        set_line(afar, mqtt);
        mosquitto_loop_forever(mqtt, 1000, 1);
        set_line(afar, NULL);
        mqtt_why(wrong, sizeof(wrong), "");
    }
    if (*wrong && !afar->told) {
        note("afar", afar->config.name, "%s:%d: %s; trying again", at->host,
             at->port, wrong);
        afar->told = true;
    }
    mosquitto_destroy(mqtt);
}

static bool pause_or_end(struct afar *afar)
{
    struct timespec until;
    clock_gettime(CLOCK_REALTIME, &until);
    until.tv_sec += afar->pause_s;
    afar->pause_s = pause_longer(afar->pause_s, AFAR_PAUSE_MOST_S);
    pthread_mutex_lock(&afar->lock);
    while (!afar->ends &&
           pthread_cond_timedwait(&afar->more, &afar->lock, &until) == 0)
        ;
    bool ends = afar->ends;
    pthread_mutex_unlock(&afar->lock);
    return ends;
}

static void *run(void *self)
{
    struct afar *afar = self;
    do
        live(afar);
    while (!pause_or_end(afar));
    return NULL;
}

/* The loop: yards */

static int by_id(const void *a, const void *b)
{
    return strcmp(((const struct yard *)a)->id, ((const struct yard *)b)->id);
}

/* For somebody, with where its answer is to come. */
static void say(void *self, const char *id, const char *below, json_t *value)
{
    struct afar *afar = self;
    char topic[MQTT_TOPIC_SIZE];
    char answers[MQTT_TOPIC_SIZE];
    char whose[TOPIC_ANSWERS_SIZE];
    topic_answers(afar->identity, whose);
    mqtt_topic(&afar->config.at, id, whose, answers);
    mqtt_topic(&afar->config.at, id, below, topic);
    char *text = json_dumps(value, JSON_COMPACT);
    if (!text)
        abort();
    pthread_mutex_lock(&afar->lock);
    if (afar->mqtt)
        mqtt_say(afar->mqtt, topic, text, answers);
    pthread_mutex_unlock(&afar->lock);
    free(text);
    json_decref(value);
}

static void want_retained(void *self)
{
    ((struct afar *)self)->wants_retained = true;
}

static struct yard *add(struct afar *afar, const char *id)
{
    const struct distant_mouth mouth = {afar->identity, say, want_retained,
                                        afar};
    if (afar->count == AFAR_SITES_MOST) {
        if (!afar->told_most)
            note("afar", afar->config.name,
                 "more than %d sites: %s and others are not followed",
                 AFAR_SITES_MOST, id);
        afar->told_most = true;
        return NULL;
    }
    struct yard *yard = calloc(1, sizeof(*yard));
    if (!yard)
        abort();
    yard->distant = distant_open(id, &mouth);
    snprintf(yard->id, sizeof(yard->id), "%s", id);
    yard->next = afar->yards;
    afar->yards = yard;
    afar->count++;
    if (!tsearch(yard, &afar->by_id, by_id))
        abort();
    return yard;
}

static void begin_to_hear(struct yard *yard, const struct afar_ears *ears)
{
    struct link_ear ear;
    yard->ears =
        ears->open(ears->self, yard->id, distant_link(yard->distant), &ear);
    distant_hear(yard->distant, &ear);
}

static struct yard *find(struct afar *afar, const char *id)
{
    struct yard like = {.distant = NULL};
    snprintf(like.id, sizeof(like.id), "%s", id);
    void *found = tfind(&like, &afar->by_id, by_id);
    return found ? *(struct yard **)found : NULL;
}

/* What makes it one, and not only something that is said there. */
static bool is_site(const char *below)
{
    enum topic which = topic_of(below, NULL);
    return which == TOPIC_HERE || which == TOPIC_SITE;
}

/* "BASE/SITE/below". */
static void take(struct afar *afar, struct came *came)
{
    char *id = came->topic + strlen(afar->config.at.base) + 1;
    char *slash = strchr(id, '/');
    if (!slash || slash - id > 63)
        return;
    *slash = '\0';
    if (!clean_is_name(id))
        return;
    struct yard *yard = find(afar, id);
    if (!yard && came->length > 0)
        yard = add(afar, id);
    if (yard && !yard->ears && is_site(slash + 1))
        begin_to_hear(yard, &afar->ears);
    if (yard)
        distant_take(yard->distant, slash + 1, came->text, came->length);
}

static void lose_all(struct afar *afar)
{
    for (struct yard *yard = afar->yards; yard; yard = yard->next)
        distant_lost(yard->distant);
}

static struct came *take_list(struct afar *afar, uint64_t *dropped)
{
    pthread_mutex_lock(&afar->lock);
    struct came *list = afar->first;
    afar->first = NULL;
    afar->last = &afar->first;
    afar->waiting = 0;
    afar->waiting_bytes = 0;
    *dropped = afar->dropped;
    afar->dropped = 0;
    pthread_mutex_unlock(&afar->lock);
    return list;
}

static void woken(evutil_socket_t fd, short what, void *self)
{
    struct afar *afar = self;
    char bytes[64];
    uint64_t dropped;
    (void)what;
    (void)!read(fd, bytes, sizeof(bytes));
    struct came *list = take_list(afar, &dropped);
    while (list) {
        struct came *next = list->next;
        if (list->topic)
            take(afar, list);
        else
            lose_all(afar);
        free_came(list);
        list = next;
    }
    if (dropped > 0)
        note("afar", afar->config.name,
             "more came than could be taken: %llu messages were dropped",
             (unsigned long long)dropped);
    afar->wants_retained |= dropped > 0;
}

static void beat(evutil_socket_t fd, short what, void *self)
{
    struct afar *afar = self;
    (void)fd, (void)what;
    for (struct yard *yard = afar->yards; yard; yard = yard->next)
        distant_look(yard->distant);
    pthread_mutex_lock(&afar->lock);
    if (afar->wants_retained && afar->mqtt)
        subscribe(afar, afar->mqtt);
    pthread_mutex_unlock(&afar->lock);
    afar->wants_retained = false;
}

/* Opening */

struct afar *afar_open(struct event_base *base,
                       const struct afar_config *config, const char *history,
                       const struct afar_ears *ears)
{
    static const struct timeval often = {.tv_sec = 1};
    struct afar *afar = calloc(1, sizeof(*afar));
    if (!afar || pipe2(afar->wake, O_CLOEXEC | O_NONBLOCK) != 0)
        abort();
    afar->config = *config;
    afar->ears = *ears;
    afar->last = &afar->first;
    afar->pause_s = AFAR_PAUSE_FIRST_S;
    identity_know(history, afar->identity);
    mosquitto_lib_init();
    pthread_mutex_init(&afar->lock, NULL);
    pthread_cond_init(&afar->more, NULL);
    afar->woken =
        event_new(base, afar->wake[0], EV_READ | EV_PERSIST, woken, afar);
    afar->beat = event_new(base, -1, EV_PERSIST, beat, afar);
    if (!afar->woken || event_add(afar->woken, NULL) != 0 || !afar->beat ||
        event_add(afar->beat, &often) != 0 ||
        pthread_create(&afar->thread, NULL, run, afar) != 0)
        abort();
    return afar;
}

static void let_go(struct afar *afar)
{
    uint64_t dropped;
    struct came *list = take_list(afar, &dropped);
    while (list) {
        struct came *next = list->next;
        free_came(list);
        list = next;
    }
    while (afar->yards) {
        struct yard *yard = afar->yards;
        afar->yards = yard->next;
        tdelete(yard, &afar->by_id, by_id);
        distant_close(yard->distant);
        if (yard->ears)
            afar->ears.close(yard->ears);
        free(yard);
    }
    event_free(afar->woken);
    event_free(afar->beat);
    close(afar->wake[0]);
    close(afar->wake[1]);
    pthread_mutex_destroy(&afar->lock);
    pthread_cond_destroy(&afar->more);
    mosquitto_lib_cleanup();
    free(afar);
}

/* A thread that waits for a name or a handshake is left to the end of the
 * program, with all that is its. */
void afar_close(struct afar *afar)
{
    struct timespec until;
    pthread_mutex_lock(&afar->lock);
    afar->ends = true;
    if (afar->mqtt)
        mosquitto_disconnect(afar->mqtt);
    pthread_cond_signal(&afar->more);
    pthread_mutex_unlock(&afar->lock);
    clock_gettime(CLOCK_REALTIME, &until);
    until.tv_sec += PATIENCE_S;
    if (pthread_timedjoin_np(afar->thread, NULL, &until) == 0)
        let_go(afar);
}
