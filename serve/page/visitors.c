/* The library bounds headers, bodies and silence, but neither how long a whole
 * request takes nor how many there are: each connection is looked at four times
 * a second, by a reference of our own. */
#include "visitors.h"

#include <errno.h>
#include <event2/buffer.h>
#include <event2/bufferevent.h>
#include <event2/bufferevent_ssl.h>
#include <event2/listener.h>
#include <openssl/err.h>
#include <openssl/ssl.h>
#include <stdbool.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <time.h>

#define SILENT_S 30
#define LOOK_US 250000
#define REQUEST_MS (VISITORS_REQUEST_S * INT64_C(1000))

struct visit {
    struct bufferevent *stream;
    int64_t since_ms; /* it waits for a request */
    bool busy;
};

struct visitors {
    struct event_base *base;
    struct evhttp *http;
    struct evhttp_bound_socket *door;
    struct event *look;
    SSL_CTX *tls;
    visitors_ask *ask;
    void *self;
    struct visit list[VISITORS_MOST];
    size_t count;
    bool full;
};

static int64_t now_ms(void)
{
    struct timespec at;
    clock_gettime(CLOCK_MONOTONIC, &at);
    return (int64_t)at.tv_sec * 1000 + at.tv_nsec / 1000000;
}

static struct visit *visit_of(struct visitors *visitors,
                              const struct bufferevent *stream)
{
    for (size_t i = 0; i < visitors->count; i++)
        if (visitors->list[i].stream == stream)
            return &visitors->list[i];
    return NULL;
}

/* Connections */

static void open_door(struct visitors *visitors, bool open)
{
    struct evconnlistener *listener =
        evhttp_bound_socket_get_listener(visitors->door);
    if (open)
        evconnlistener_enable(listener);
    else
        evconnlistener_disable(listener);
    visitors->full = !open;
}

/* Whether the library has let go of it. */
static bool is_left(struct bufferevent *stream)
{
    bufferevent_data_cb in;
    bufferevent_data_cb out;
    bufferevent_event_cb changed;
    void *self;
    bufferevent_getcb(stream, &in, &out, &changed, &self);
    return !in && !out && !changed;
}

static void look(evutil_socket_t fd, short what, void *self)
{
    struct visitors *visitors = self;
    int64_t now = now_ms();
    (void)fd, (void)what;
    for (size_t i = visitors->count; i-- > 0;) {
        struct visit *visit = &visitors->list[i];
        if (is_left(visit->stream)) {
            bufferevent_decref(visit->stream);
            *visit = visitors->list[--visitors->count];
        } else if (!visit->busy && now - visit->since_ms > REQUEST_MS)
            shutdown(bufferevent_getfd(visit->stream), SHUT_RDWR);
    }
    if (visitors->full && visitors->count < VISITORS_MOST)
        open_door(visitors, true);
}

static struct bufferevent *arrive(struct event_base *base, void *self)
{
    struct visitors *visitors = self;
    struct bufferevent *stream =
        visitors->tls
            ? bufferevent_openssl_socket_new(base, -1, SSL_new(visitors->tls),
                                             BUFFEREVENT_SSL_ACCEPTING,
                                             BEV_OPT_CLOSE_ON_FREE)
            : bufferevent_socket_new(base, -1, BEV_OPT_CLOSE_ON_FREE);
    if (!stream)
        abort();
    bufferevent_incref(stream);
    if (visitors->count == VISITORS_MOST - 1)
        look(-1, 0, visitors); /* those who left make room at once */
    visitors->list[visitors->count++] =
        (struct visit){.stream = stream, .since_ms = now_ms()};
    if (visitors->count == VISITORS_MOST)
        open_door(visitors, false);
    return stream;
}

static void answered(struct evhttp_request *request, void *self)
{
    struct evhttp_connection *connection =
        evhttp_request_get_connection(request);
    struct visit *visit =
        connection
            ? visit_of(self, evhttp_connection_get_bufferevent(connection))
            : NULL;
    if (!visit)
        return;
    visit->busy = false;
    visit->since_ms = now_ms();
}

void visitors_busy(struct visitors *visitors, struct evhttp_request *request)
{
    struct visit *visit =
        visit_of(visitors, evhttp_connection_get_bufferevent(
                               evhttp_request_get_connection(request)));
    if (visit)
        visit->busy = true;
    evhttp_request_set_on_complete_cb(request, answered, visitors);
}

static void asked(struct evhttp_request *request, void *self)
{
    struct visitors *visitors = self;
    visitors_busy(visitors, request);
    visitors->ask(visitors->self, request);
}

/* Opening */

static bool read_certificate(struct visitors *visitors, const char *path,
                             char *wrong, size_t size)
{
    visitors->tls = SSL_CTX_new(TLS_server_method());
    if (visitors->tls &&
        SSL_CTX_set_min_proto_version(visitors->tls, TLS1_2_VERSION) == 1 &&
        SSL_CTX_use_certificate_chain_file(visitors->tls, path) == 1 &&
        SSL_CTX_use_PrivateKey_file(visitors->tls, path, SSL_FILETYPE_PEM) == 1)
        return true;
    snprintf(wrong, size,
             "%s: %s; expected a certificate, its chain and its "
             "key in one PEM file",
             path, ERR_reason_error_string(ERR_peek_last_error()));
    return false;
}

/* "[::1]:8460" into its two parts. */
static bool split(const char *listen, char *address, size_t size, int *port)
{
    const char *colon = strrchr(listen, ':');
    size_t length = colon ? (size_t)(colon - listen) : 0;
    const char *from = listen;
    if (!colon || length == 0 || length >= size)
        return false;
    if (*from == '[' && from[length - 1] == ']') {
        from++;
        length -= 2;
    }
    memcpy(address, from, length);
    address[length] = '\0';
    *port = atoi(colon + 1);
    return *port > 0 && *port < 65536;
}

static bool bind_to(struct visitors *visitors, const char *listen, char *wrong,
                    size_t size)
{
    char address[80];
    int port;
    if (!split(listen, address, sizeof(address), &port)) {
        snprintf(wrong, size, "expected ADDRESS:PORT, such as 127.0.0.1:8460");
        return false;
    }
    errno = 0;
    visitors->door =
        evhttp_bind_socket_with_handle(visitors->http, address, (uint16_t)port);
    if (!visitors->door)
        snprintf(wrong, size, "%s",
                 errno ? strerror(errno) : "no such address");
    return visitors->door != NULL;
}

static void set_up(struct visitors *visitors)
{
    struct timeval often = {.tv_usec = LOOK_US};
    evhttp_set_max_headers_size(visitors->http, VISITORS_HEADER_MOST);
    evhttp_set_max_body_size(visitors->http, VISITORS_BODY_MOST);
    evhttp_set_timeout(visitors->http, SILENT_S);
    evhttp_set_allowed_methods(visitors->http,
                               EVHTTP_REQ_GET | EVHTTP_REQ_HEAD |
                                   EVHTTP_REQ_POST | EVHTTP_REQ_DELETE);
    evhttp_set_default_content_type(visitors->http, NULL);
    evhttp_set_bevcb(visitors->http, arrive, visitors);
    evhttp_set_gencb(visitors->http, asked, visitors);
    visitors->look = event_new(visitors->base, -1, EV_PERSIST, look, visitors);
    if (!visitors->look || event_add(visitors->look, &often) != 0)
        abort();
}

struct visitors *visitors_open(struct event_base *base, const char *listen,
                               const char *certificate, visitors_ask *ask,
                               void *self, char *wrong, size_t size)
{
    struct visitors *visitors = calloc(1, sizeof(*visitors));
    if (!visitors)
        abort();
    *visitors = (struct visitors){
        .base = base, .http = evhttp_new(base), .ask = ask, .self = self};
    if (!visitors->http)
        abort();
    set_up(visitors);
    if ((!certificate ||
         read_certificate(visitors, certificate, wrong, size)) &&
        bind_to(visitors, listen, wrong, size))
        return visitors;
    visitors_close(visitors);
    return NULL;
}

void visitors_close(struct visitors *visitors)
{
    evhttp_free(visitors->http);
    for (size_t i = 0; i < visitors->count; i++)
        bufferevent_decref(visitors->list[i].stream);
    event_free(visitors->look);
    SSL_CTX_free(visitors->tls);
    free(visitors);
}
