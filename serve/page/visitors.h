/* Connections of browsers: how many, how long a request may take, how large it
 * may be; TLS where there is a certificate. */
#ifndef CUPLATCH_SERVE_PAGE_VISITORS_H
#define CUPLATCH_SERVE_PAGE_VISITORS_H

#include <event2/event.h>
#include <event2/http.h>
#include <stddef.h>

#define VISITORS_MOST 400
#define VISITORS_HEADER_MOST 8192
#define VISITORS_BODY_MOST 16384
/* From the first byte of a connection, its handshake among them, or from the
 * answer before, until a request is whole. */
#define VISITORS_REQUEST_S 10

struct visitors;

/* What is asked for; each request must be answered in the end. */
typedef void visitors_ask(void *self, struct evhttp_request *request);

/* Listens at "ADDRESS:PORT". `certificate` null: plain. Null, and `wrong` (of
 * `size` bytes) says why. */
struct visitors *visitors_open(struct event_base *base, const char *listen,
                               const char *certificate, visitors_ask *ask,
                               void *self, char *wrong, size_t size);
void visitors_close(struct visitors *visitors);

/* A request is being answered: it may take its time from now on. */
void visitors_busy(struct visitors *visitors, struct evhttp_request *request);

#endif
