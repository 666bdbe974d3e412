/* Lines of JSON over a stream socket, by the event loop. */
#include "link.h"

#include <errno.h>
#include <event2/buffer.h>
#include <event2/bufferevent.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <sys/un.h>

#include "../common/note.h"
#include "../common/pause.h"

#define PAUSE_FIRST_S 1
#define PAUSE_MOST_S 1 /* it is of this machine: asking costs nothing */
/* A controller says something every second; one that is silent is stuck. */
#define SILENT_S 30
#define LINE_MOST 262144

/* Before it is known which site it is, and while it begins where it was left,
 * nothing of it counts. */
enum stage { AWAY, LEARNING, SYNCING, LIVE };

struct local {
    struct link way;
    struct event_base *base;
    const char *name;
    const char *socket;
    struct link_ear ear;
    struct bufferevent *stream; /* null: there is none */
    struct event *again;
    enum stage stage;
    int pause_s;
    bool told; /* that it is not there */
};

static void connect_to(struct local *link);

/* Coming and going */

static void drop(struct local *link)
{
    if (link->stream)
        bufferevent_free(link->stream);
    link->stream = NULL;
    if (link->stage == LIVE)
        link->ear.up(link->ear.self, false);
    link->stage = AWAY;
    link->way.there = false;
}

static void try_later(struct local *link, const char *why)
{
    struct timeval pause = {.tv_sec = link->pause_s};
    drop(link);
    if (!link->told)
        note("link", link->name, "%s: %s; trying again", link->socket, why);
    link->told = true;
    evtimer_add(link->again, &pause);
    link->pause_s = pause_longer(link->pause_s, PAUSE_MOST_S);
}

static void again(evutil_socket_t fd, short what, void *self)
{
    (void)fd, (void)what;
    connect_to(self);
}

static void begin_anew(struct link *way)
{
    struct local *link = (struct local *)way;
    struct timeval now = {0, 0};
    drop(link);
    evtimer_add(link->again, &now);
}

/* Lines */

static void say(struct local *link, json_t *line)
{
    char *text = json_dumps(line, JSON_COMPACT);
    json_decref(line);
    if (!text)
        abort();
    bufferevent_write(link->stream, text, strlen(text));
    bufferevent_write(link->stream, "\n", 1);
    free(text);
}

/* The site has named itself: its events go on from the last that is known. */
static void begin(struct local *link, const json_t *site)
{
    char run[64] = "";
    const char *id = json_string_value(json_object_get(site, "id"));
    int64_t since = link->ear.since(link->ear.self, id ? id : link->name, run);
    json_t *from = json_pack("{s:I}", "since", (json_int_t)since);
    if (*run)
        json_object_set_new(from, "run", json_string(run));
    say(link, json_pack("{s:o}", "follow", from));
    link->stage = SYNCING;
}

static void go_live(struct local *link)
{
    link->stage = LIVE;
    link->way.there = true;
    link->pause_s = PAUSE_FIRST_S;
    link->told = false;
    note("link", link->name, "%s: is there", link->socket);
    link->ear.up(link->ear.self, true);
}

static void take(struct local *link, const json_t *line)
{
    const json_t *site = json_object_get(line, "site");
    if (site && link->stage == LEARNING) {
        begin(link, site);
        return;
    }
    if (site && link->stage == SYNCING)
        go_live(link);
    if (link->stage != LIVE)
        return;
    if (!json_object_get(line, "done"))
        link->ear.heard(link->ear.self, line);
    else if (link->ear.answered)
        link->ear.answered(link->ear.self, line);
}

static void say_if_there(struct link *way, json_t *line)
{
    struct local *link = (struct local *)way;
    if (link->stage == LIVE)
        say(link, line);
    else
        json_decref(line);
}

static void can_read(struct bufferevent *stream, void *self)
{
    struct local *link = self;
    size_t length;
    char *text;
    struct evbuffer *in = bufferevent_get_input(stream);
    while (link->stream &&
           (text = evbuffer_readln(in, &length, EVBUFFER_EOL_LF))) {
        json_t *line = json_loadb(text, length, JSON_REJECT_DUPLICATES, NULL);
        free(text);
        if (!line) {
            try_later(link, "says what is no JSON");
            return;
        }
        take(link, line);
        json_decref(line);
    }
    if (link->stream && evbuffer_get_length(in) > LINE_MOST)
        try_later(link, "says a line that does not end");
}

static void changed(struct bufferevent *stream, short what, void *self)
{
    struct local *link = self;
    (void)stream;
    if (what & BEV_EVENT_CONNECTED)
        return;
    if (what & BEV_EVENT_TIMEOUT)
        try_later(link, "is silent");
    else if (what & BEV_EVENT_ERROR)
        try_later(link, strerror(errno));
    else
        try_later(link, "went away");
}

static void connect_to(struct local *link)
{
    static const struct timeval silent = {.tv_sec = SILENT_S};
    struct sockaddr_un at = {.sun_family = AF_UNIX};
    if (strlen(link->socket) >= sizeof(at.sun_path)) {
        try_later(link, "this path is too long");
        return;
    }
    memcpy(at.sun_path, link->socket, strlen(link->socket));
    link->stream =
        bufferevent_socket_new(link->base, -1, BEV_OPT_CLOSE_ON_FREE);
    if (!link->stream)
        abort();
    bufferevent_setcb(link->stream, can_read, NULL, changed, link);
    bufferevent_set_timeouts(link->stream, &silent, NULL);
    link->stage = LEARNING;
    errno = 0;
    if (bufferevent_socket_connect(link->stream, (struct sockaddr *)&at,
                                   sizeof(at)) != 0) {
        if (link->stream && link->stage == LEARNING)
            try_later(link, strerror(errno));
        return;
    }
    if (!link->stream)
        return; /* it was refused at once */
    bufferevent_enable(link->stream, EV_READ | EV_WRITE);
    say(link, json_pack("{s:{}}", "follow"));
}

struct link *link_open(struct event_base *base, const char *name,
                       const char *socket, const struct link_ear *ear)
{
    struct local *link = calloc(1, sizeof(*link));
    if (!link)
        abort();
    *link = (struct local){.way = {false, say_if_there, begin_anew},
                           .base = base,
                           .name = name,
                           .socket = socket,
                           .ear = *ear,
                           .pause_s = PAUSE_FIRST_S};
    link->again = evtimer_new(base, again, link);
    if (!link->again)
        abort();
    begin_anew(&link->way);
    return &link->way;
}

void link_close(struct link *way)
{
    struct local *link = (struct local *)way;
    drop(link);
    event_free(link->again);
    free(link);
}
