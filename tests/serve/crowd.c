#include "crowd.h"

#include <jansson.h>
#include <mosquitto.h>
#include <mqtt_protocol.h>
#include <poll.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#define SENSORS 12
#define TANKS 4
#define TURN_MS 20
#define TEXT_SIZE 600

struct one {
    struct crowd *crowd;
    struct mosquitto *mqtt;
    int which;
    bool there;
    bool wants;    /* somebody missed events */
    int64_t since; /* after this one */
    long told;
    int64_t level_at, event_at;
    unsigned turn;
};

struct crowd {
    struct one *ones;
    struct pollfd *fds;
    int count;
    const char *base;
    int level_ms, event_ms;
    bool calm;
    int64_t looked_at;
};

static int64_t now_ms(void)
{
    struct timespec at;
    clock_gettime(CLOCK_MONOTONIC, &at);
    return (int64_t)at.tv_sec * 1000 + at.tv_nsec / 1000000;
}

static void say(const struct one *one, const char *below, const char *text,
                int qos, bool retain)
{
    char topic[120];
    snprintf(topic, sizeof(topic), "%s/plot-%d/%s", one->crowd->base,
             one->which, below);
    mosquitto_publish(one->mqtt, NULL, topic, (int)strlen(text), text, qos,
                      retain);
}

/* What a site is */

static const char *kind_of(int thing)
{
    return thing < SENSORS           ? "sensor"
           : thing < SENSORS + TANKS ? "tank"
                                     : "pump";
}

static void say_site(const struct one *one)
{
    char id[40];
    char name[60];
    snprintf(id, sizeof(id), "plot-%d", one->which);
    snprintf(name, sizeof(name), "Plot %d", one->which);
    json_t *things = json_array();
    for (int i = 0; i < CROWD_THINGS; i++) {
        char thing[20];
        snprintf(thing, sizeof(thing), "thing_%d", i);
        json_array_append_new(things,
                              json_pack("{s:s, s:s, s:s}", "name", thing,
                                        "kind", kind_of(i), "unit", "%"));
    }
    json_t *site = json_pack("{s:s, s:s, s:s, s:o}", "id", id, "name", name,
                             "run", "r1", "things", things);
    char *text = json_dumps(site, JSON_COMPACT);
    say(one, "site", text, 1, true);
    say(one, "standing",
        one->which % 20 ? "[]" : "[\"thing_12 is nearly empty\"]", 1, true);
    say(one, "here", "yes crowd", 1, true);
    free(text);
    json_decref(site);
}

static void say_level(struct one *one)
{
    char below[40];
    char text[TEXT_SIZE];
    unsigned thing = one->turn++ % (SENSORS + TANKS);
    unsigned value = (one->turn * 37 + (unsigned)one->which * 11) % 10000;
    snprintf(below, sizeof(below), "levels/thing_%u", thing);
    snprintf(text, sizeof(text),
             "{\"value\":%u.%02u,\"unit\":\"%%\",\"quality\":\"good\","
             "\"samples\":%u,\"rejects\":0}",
             value / 100, value % 100, one->turn);
    say(one, below, text, 0, true);
}

/* Of a number, always the same. */
static void event_text(long number, char text[TEXT_SIZE])
{
    snprintf(text, TEXT_SIZE,
             "{\"number\":%ld,\"run\":\"r1\",\"kind\":\"%s\",\"of\":\"thing_%ld"
             "\",\"reason\":\"below-start\",\"value\":%ld,\"unit\":\"%%\","
             "\"t_ms\":%ld,\"why\":\"a made-up reason that is as long as one "
             "that a controller gives\"}",
             number, number % 2 ? "stop" : "start",
             SENSORS + TANKS + number / 2 % 4, number, number * 1000);
}

static void say_event(struct one *one)
{
    char text[TEXT_SIZE];
    event_text(one->told++, text);
    say(one, "events", text, 1, false);
}

static void say_missed(struct one *one)
{
    char text[TEXT_SIZE];
    char missed[TEXT_SIZE + 60];
    int64_t after = one->since;
    for (; after + 1 < one->told; after++) {
        event_text((long)after + 1, text);
        snprintf(missed, sizeof(missed), "{\"after\":%lld,\"event\":%s}",
                 (long long)after, text);
        say(one, "missed", missed, 1, false);
    }
    snprintf(missed, sizeof(missed), "{\"after\":%lld}", (long long)after);
    say(one, "missed", missed, 1, false);
    one->wants = false;
}

/* Lines */

static void connected(struct mosquitto *mqtt, void *self, int why)
{
    struct one *one = self;
    char topic[120];
    one->there = why == 0;
    snprintf(topic, sizeof(topic), "%s/plot-%d/again", one->crowd->base,
             one->which);
    mosquitto_subscribe(mqtt, NULL, topic, 1);
    say_site(one);
}

static void disconnected(struct mosquitto *mqtt, void *self, int why)
{
    (void)mqtt, (void)why;
    ((struct one *)self)->there = false;
}

static void said(struct mosquitto *mqtt, void *self,
                 const struct mosquitto_message *message)
{
    struct one *one = self;
    (void)mqtt;
    json_t *body =
        json_loadb(message->payload, (size_t)message->payloadlen, 0, NULL);
    one->since = json_integer_value(json_object_get(body, "since"));
    one->wants = true;
    json_decref(body);
}

static void begin(struct one *one, int port)
{
    char who[40];
    char topic[120];
    snprintf(who, sizeof(who), "crowd-%d", one->which);
    snprintf(topic, sizeof(topic), "%s/plot-%d/here", one->crowd->base,
             one->which);
    one->mqtt = mosquitto_new(who, true, one);
    if (!one->mqtt)
        abort();
    mosquitto_connect_callback_set(one->mqtt, connected);
    mosquitto_disconnect_callback_set(one->mqtt, disconnected);
    mosquitto_message_callback_set(one->mqtt, said);
    mosquitto_will_set(one->mqtt, topic, 2, "no", 1, true);
    if (mosquitto_connect(one->mqtt, "127.0.0.1", port, 60) != MOSQ_ERR_SUCCESS)
        abort();
}

struct crowd *crowd_open(int port, const char *base, int sites, int level_ms,
                         int event_ms)
{
    struct crowd *crowd = calloc(1, sizeof(*crowd));
    if (!crowd || !(crowd->ones = calloc((size_t)sites, sizeof(struct one))) ||
        !(crowd->fds = calloc((size_t)sites, sizeof(struct pollfd))))
        abort();
    crowd->count = sites;
    crowd->base = base;
    crowd->level_ms = level_ms;
    crowd->event_ms = event_ms;
    for (int i = 0; i < sites; i++) {
        struct one *one = &crowd->ones[i];
        *one = (struct one){.crowd = crowd, .which = i};
        /* they do not all speak at once */
        one->level_at = now_ms() + (int64_t)i * level_ms / sites;
        one->event_at = now_ms() + (int64_t)i * event_ms / sites;
        begin(one, port);
    }
    return crowd;
}

/* What is due; the first turns are of the line alone. */
static void turn(struct one *one, int64_t now)
{
    const struct crowd *crowd = one->crowd;
    if (!one->there)
        return;
    if (one->wants)
        say_missed(one);
    if (now >= one->level_at) {
        say_level(one);
        one->level_at += crowd->level_ms;
    }
    if (!crowd->calm && now >= one->event_at) {
        say_event(one);
        one->event_at += crowd->event_ms;
    }
}

static void wait_all(struct crowd *crowd)
{
    int64_t now = now_ms();
    bool looks = now - crowd->looked_at > 1000;
    for (int i = 0; i < crowd->count; i++) {
        struct mosquitto *mqtt = crowd->ones[i].mqtt;
        short writes = mosquitto_want_write(mqtt) ? POLLOUT : 0;
        crowd->fds[i] = (struct pollfd){.fd = mosquitto_socket(mqtt),
                                        .events = (short)(POLLIN | writes)};
    }
    poll(crowd->fds, (nfds_t)crowd->count, TURN_MS);
    for (int i = 0; i < crowd->count; i++) {
        struct one *one = &crowd->ones[i];
        if (crowd->fds[i].revents & (POLLIN | POLLHUP | POLLERR))
            mosquitto_loop_read(one->mqtt, 1);
        if (crowd->fds[i].revents & POLLOUT)
            mosquitto_loop_write(one->mqtt, 1);
        if (looks && mosquitto_loop_misc(one->mqtt) == MOSQ_ERR_NO_CONN)
            mosquitto_reconnect(one->mqtt);
    }
    if (looks)
        crowd->looked_at = now;
}

void crowd_live(struct crowd *crowd, int ms)
{
    int64_t until = now_ms() + ms;
    for (int64_t now = now_ms(); now < until; now = now_ms()) {
        for (int i = 0; i < crowd->count; i++)
            turn(&crowd->ones[i], now);
        wait_all(crowd);
    }
}

void crowd_calm(struct crowd *crowd, int ms)
{
    crowd->calm = true;
    crowd_live(crowd, ms);
}

long crowd_told(const struct crowd *crowd, int site)
{
    return crowd->ones[site].told;
}

void crowd_close(struct crowd *crowd)
{
    for (int i = 0; i < crowd->count; i++) {
        mosquitto_disconnect(crowd->ones[i].mqtt);
        mosquitto_destroy(crowd->ones[i].mqtt);
    }
    free(crowd->ones);
    free(crowd->fds);
    free(crowd);
}
