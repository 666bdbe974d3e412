/* What the files of the broker part share. Everything of a client is behind the
 * broker's lock, but for what is of one thread. */
#ifndef CUPLATCH_SERVE_BROKER_INSIDE_H
#define CUPLATCH_SERVE_BROKER_INSIDE_H

#include <mosquitto.h>
#include <pthread.h>

#include "../../history/outbox.h"
#include "broker.h"
#include "identity.h"
#include "requests.h"
#include "retained.h"
#include "topics.h"

/* `message` is that of the outbox; 0: it is said once more. */
struct flight {
    int mid; /* 0: free */
    int64_t message;
};

enum stage { OFFLINE, ASKING, ONLINE, CLASH };

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
    int wake[2]; /* a byte: there are requests */
    struct event *woken;
    struct requests requests;
    char identity[IDENTITY_SIZE];
    struct client clients[LINKS_MOST];
    size_t count;
    pthread_t thread;
    pthread_mutex_t lock;
    bool ends;
};

/* BASE/SITE/BELOW of a client. */
void client_topic(const struct client *client, const char *below,
                  char topic[MQTT_TOPIC_SIZE]);

/* What the library's threads call. */
void client_listen(struct client *client);

/* Of our thread. Says what is retained on a topic; all that has changed of it,
 * with the lock held; and events, new ones and those that somebody missed. */
void client_publish(struct client *client, const char *below, const char *text);
void client_publish_changes(struct client *client);
void client_publish_events(struct client *client, struct history *history);

#endif
