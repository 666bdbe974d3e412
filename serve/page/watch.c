/* Every line goes out once, to all, as it came. */
#include "watch.h"

#include <event2/buffer.h>
#include <event2/bufferevent.h>
#include <event2/event.h>
#include <inttypes.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "reply.h"

struct follower {
    struct watch *watch;
    struct evhttp_request *request;
    struct follower *next;
    struct pass pass;
    size_t
        first; /* bytes that it got at once, while it may not have read them */
};

struct watch {
    const char *name;
    json_t *site;
    json_t *now;
    char run[64];
    json_t **events;
    size_t events_most;
    uint64_t event_count; /* in all: the ring holds the last */
    int64_t number;       /* of the last */
    struct follower *followers;
    size_t follower_count;
    bool up;
    int64_t turned; /* when that was last told; 0: never */
};

struct watch *watch_open(const char *name, size_t events)
{
    struct watch *watch = calloc(1, sizeof(*watch));
    if (!watch || !(watch->events = calloc(events, sizeof(json_t *))))
        abort();
    watch->events_most = events;
    watch->name = name;
    watch->number = -1;
    watch->now = json_object();
    return watch;
}

/* Browsers */

static void leave(struct evhttp_connection *connection, void *self)
{
    struct follower *follower = self;
    struct follower **at = &follower->watch->followers;
    (void)connection;
    while (*at != follower)
        at = &(*at)->next;
    *at = follower->next;
    follower->watch->follower_count--;
    reply_left(follower->request);
    free(follower);
}

static void write_line(struct evbuffer *lines, const char *kind, const char *id,
                       const json_t *value)
{
    char *text = json_dumps(value, JSON_COMPACT | JSON_REAL_PRECISION(10));
    if (!text)
        abort();
    if (*id)
        evbuffer_add_printf(lines, "id: %s\n", id);
    evbuffer_add_printf(lines, "event: %s\ndata: %s\n\n", kind, text);
    free(text);
}

static struct evbuffer *new_lines(void)
{
    struct evbuffer *lines = evbuffer_new();
    if (!lines)
        abort();
    return lines;
}

/* Says lines to one; one that does not read is let go. What it got at once when
 * it came may be more than that, and does not count. */
static void say(struct follower *follower, const void *bytes, size_t length)
{
    struct evhttp_connection *connection =
        evhttp_request_get_connection(follower->request);
    size_t unread = evbuffer_get_length(
        bufferevent_get_output(evhttp_connection_get_bufferevent(connection)));
    if (unread <= WATCH_UNREAD_MOST)
        follower->first = 0;
    if (unread > follower->first + WATCH_UNREAD_MOST) {
        evhttp_connection_free(connection); /* it leaves by its callback */
        return;
    }
    struct evbuffer *lines = new_lines();
    evbuffer_add(lines, bytes, length);
    evhttp_send_reply_chunk(follower->request, lines);
    evbuffer_free(lines);
}

static void say_all(const struct watch *watch, const char *kind, const char *id,
                    const json_t *value)
{
    if (!watch->followers)
        return;
    struct evbuffer *lines = new_lines();
    write_line(lines, kind, id, value);
    size_t length = evbuffer_get_length(lines);
    const void *bytes = evbuffer_pullup(lines, -1);
    for (struct follower *one = watch->followers; one;) {
        struct follower *next = one->next;
        say(one, bytes, length);
        one = next;
    }
    evbuffer_free(lines);
}

void watch_close(struct watch *watch)
{
    while (watch->followers)
        evhttp_connection_free(
            evhttp_request_get_connection(watch->followers->request));
    for (size_t i = 0; i < watch->events_most; i++)
        json_decref(watch->events[i]);
    free(watch->events);
    json_decref(watch->site);
    json_decref(watch->now);
    free(watch);
}

void watch_check(struct watch *watch, struct door *door)
{
    for (struct follower *one = watch->followers; one;) {
        struct follower *next = one->next;
        if (!door_still_open(door, &one->pass))
            evhttp_connection_free(evhttp_request_get_connection(one->request));
        one = next;
    }
}

/* What is known */

const char *watch_name(const struct watch *watch)
{
    return watch->name;
}

bool watch_is_up(const struct watch *watch)
{
    return watch->up;
}

int64_t watch_turned(const struct watch *watch)
{
    return watch->turned;
}

const json_t *watch_site(const struct watch *watch)
{
    return watch->site;
}

size_t watch_followers(const struct watch *watch)
{
    return watch->follower_count;
}

static void stamp(const struct watch *watch, json_t *json)
{
    json_object_set_new(json, "up", json_boolean(watch->up));
    json_object_set_new(json, "clock", json_integer((json_int_t)time(NULL)));
}

json_t *watch_now(const struct watch *watch)
{
    json_t *now = json_copy(watch->now);
    stamp(watch, now);
    return now;
}

json_t *watch_standing(const struct watch *watch)
{
    return json_object_get(watch->now, "standing");
}

static const json_t *event_at(const struct watch *watch, uint64_t at)
{
    return watch->events[at % watch->events_most];
}

static uint64_t first_event(const struct watch *watch)
{
    return watch->event_count > watch->events_most
               ? watch->event_count - watch->events_most
               : 0;
}

json_t *watch_events(const struct watch *watch, size_t most)
{
    json_t *events = json_array();
    for (uint64_t i = watch->event_count;
         i-- > first_event(watch) && json_array_size(events) < most;)
        json_array_append(events, (json_t *)event_at(watch, i));
    return events;
}

/* Lines of the controller */

int64_t watch_since(const struct watch *watch, char *run, size_t size)
{
    snprintf(run, size, "%s", watch->run);
    return watch->number;
}

/* Things come as wholes, so that one level deep is enough. */
static void merge(json_t *now, const json_t *changes)
{
    const char *name;
    json_t *value;
    json_object_foreach((json_t *)changes, name, value)
    {
        json_t *old = json_object_get(now, name);
        if (json_is_object(old) && json_is_object(value))
            json_object_update(old, value);
        else
            json_object_set_new(now, name, json_deep_copy(value));
    }
}

static void take_event(struct watch *watch, json_t *event)
{
    char id[100];
    int64_t number = json_integer_value(json_object_get(event, "number"));
    if (number <= watch->number)
        return; /* asked for again by somebody else */
    json_t **place = &watch->events[watch->event_count++ % watch->events_most];
    json_decref(*place);
    *place = json_incref(event);
    watch->number = number;
    snprintf(id, sizeof(id), "%s/%" PRId64, watch->run, number);
    say_all(watch, "event", id, event);
}

static void take_site(struct watch *watch, json_t *site)
{
    const char *run = json_string_value(json_object_get(site, "run"));
    json_decref(watch->site);
    watch->site = json_incref(site);
    if (strcmp(watch->run, run ? run : "") != 0)
        watch->number = -1; /* a start may count anew */
    snprintf(watch->run, sizeof(watch->run), "%s", run ? run : "");
    say_all(watch, "site", "", site);
}

void watch_heard(struct watch *watch, const json_t *line)
{
    json_t *site = json_object_get(line, "site");
    json_t *now = json_object_get(line, "now");
    json_t *event = json_object_get(line, "event");
    if (json_is_object(site))
        take_site(watch, site);
    if (json_is_object(now)) {
        merge(watch->now, now);
        json_t *told = json_copy(now);
        stamp(watch, told);
        say_all(watch, "now", "", told);
        json_decref(told);
    }
    if (json_is_object(event))
        take_event(watch, event);
}

void watch_up(struct watch *watch, bool up)
{
    watch->up = up;
    watch->turned = (int64_t)time(NULL);
    watch_beat(watch);
}

void watch_beat(const struct watch *watch)
{
    json_t *beat = json_object();
    stamp(watch, beat);
    say_all(watch, "beat", "", beat);
    json_decref(beat);
}

/* Following */

static void catch_up(const struct watch *watch, const char *run, int64_t since,
                     struct evbuffer *lines)
{
    char id[100];
    if (strcmp(run, watch->run) != 0)
        return;
    for (uint64_t i = first_event(watch); i < watch->event_count; i++) {
        const json_t *event = event_at(watch, i);
        int64_t number = json_integer_value(json_object_get(event, "number"));
        if (number <= since)
            continue;
        snprintf(id, sizeof(id), "%s/%" PRId64, watch->run, number);
        write_line(lines, "event", id, event);
    }
}

/* All that a browser is told when it comes, at once: nobody is let go in the
 * middle of it. */
static void tell_first(struct follower *follower, const char *run,
                       int64_t since)
{
    const struct watch *watch = follower->watch;
    struct evbuffer *lines = new_lines();
    json_t *now = watch_now(watch);
    if (watch->site)
        write_line(lines, "site", "", watch->site);
    write_line(lines, "now", "", now);
    catch_up(watch, run, since, lines);
    follower->first = evbuffer_get_length(lines);
    evhttp_send_reply_chunk(follower->request, lines);
    evbuffer_free(lines);
    json_decref(now);
}

void watch_follow(struct watch *watch, struct evhttp_request *request,
                  const struct pass *pass, const char *run, int64_t since)
{
    static const struct timeval patience = {.tv_sec = 30};
    struct evhttp_connection *connection =
        evhttp_request_get_connection(request);
    struct bufferevent *stream = evhttp_connection_get_bufferevent(connection);
    struct follower *follower = malloc(sizeof(*follower));
    if (!follower)
        abort();
    *follower = (struct follower){.watch = watch,
                                  .request = request,
                                  .next = watch->followers,
                                  .pass = *pass};
    watch->followers = follower;
    watch->follower_count++;
    reply_headers(request, "text/event-stream");
    evhttp_send_reply_start(request, HTTP_OK, NULL);
    evhttp_connection_set_closecb(connection, leave, follower);
    bufferevent_set_timeouts(stream, NULL, &patience);
    bufferevent_enable(stream, EV_READ); /* to see it go */
    tell_first(follower, run, since);
}
