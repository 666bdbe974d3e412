/* Answers, each with the headers that keep a browser safe; and answers that are
 * given later, to somebody who may be gone by then. */
#ifndef CUPLATCH_SERVE_PAGE_REPLY_H
#define CUPLATCH_SERVE_PAGE_REPLY_H

#include <event2/http.h>
#include <jansson.h>
#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

/* Lets go of the value. A 200 has an ETag, and is a 304 where that is known. */
void reply_json(struct evhttp_request *request, int code, json_t *json);

/* {"error": "..."}. */
void reply_error(struct evhttp_request *request, int code, const char *form,
                 ...) __attribute__((format(printf, 3, 4)));

/* Bytes as they are; `etag` may be null. */
void reply_bytes(struct evhttp_request *request, const char *type,
                 const void *bytes, size_t length, const char *etag);

/* Nothing but a code. */
void reply_empty(struct evhttp_request *request, int code);

/* The headers alone, for what goes on. */
void reply_headers(struct evhttp_request *request, const char *type);

/* What a request says; "" where it does not. */
const char *request_header(struct evhttp_request *request, const char *name);

/* Of the query, "from" of "?from=1&to=2", into `value`; false: not there, or
 * longer. */
bool request_query(struct evhttp_request *request, const char *name,
                   char *value, size_t size);

/* The whole body as JSON; null: it is none. */
json_t *request_json(struct evhttp_request *request);

/* The other end is gone before its answer was whole: where the library left the
 * request to us, it is freed. For a connection's close callback. */
void reply_left(struct evhttp_request *request);

/* An answer that is given later. later_end() gives what it was for, to be
 * answered; null: nobody waits for it any more. */
struct later;
struct later *later_begin(struct evhttp_request *request);
struct evhttp_request *later_end(struct later *later);

/* Whether somebody still waits; any thread may ask. */
bool later_waits(const struct later *later);

/* The same as a whole number of 0 to `most`; `otherwise` if it is none. */
int64_t request_number(struct evhttp_request *request, const char *name,
                       int64_t otherwise, int64_t most);

#endif
