/* A broker, a garden and cuplatch-serve between them, and whoever else listens
 * at the broker, with a session that it keeps. */
#ifndef CUPLATCH_TESTS_LISTENER_H
#define CUPLATCH_TESTS_LISTENER_H

#include <jansson.h>
#include <mosquitto.h>
#include <pthread.h>
#include <stdbool.h>
#include <sys/types.h>

/* Behind the lock. Events came in order, again, or in none. */
struct listener {
    pthread_mutex_t lock;
    struct mosquitto *mqtt;
    json_t *retained; /* the last text of each topic */
    long events, again, odd;
    json_int_t last;
};
extern struct listener ear;

extern int port;
extern pid_t broker, garden, serve;

/* A folder with files of both: more of what serve's [broker] says, and of the
 * broker's own. */
void begin(const char *name, const char *more, const char *conf);

/* The broker keeps sessions and what is retained over restarts. */
pid_t start_broker(void);
pid_t start_garden(void);
void listen_in(const char *user, const char *password);
void stop_listening(void);

/* All of them; and each ends as it should. */
void start_all(void);
void end_all(void);

/* Whether the last text of a topic has something in it; and as soon as it
 * has. */
bool has(const char *topic, const char *text);
bool wait_for(const char *topic, const char *text);

#endif
