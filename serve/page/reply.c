#include "reply.h"

#include <event2/buffer.h>
#include <event2/keyvalq_struct.h>
#include <sodium.h>
#include <stdarg.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

/* Nothing comes from anywhere else, nothing is inline, and nobody frames it. */
static const char policy[] =
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self'; "
    "connect-src 'self'; manifest-src 'self'; base-uri 'none'; form-action "
    "'none'; frame-ancestors 'none'";

#define ERROR_SIZE 300

void reply_headers(struct evhttp_request *request, const char *type)
{
    static const char *const all[][2] = {
        {"X-Content-Type-Options", "nosniff"},
        {"Referrer-Policy", "no-referrer"},
        {"X-Frame-Options", "DENY"},
        {"Cross-Origin-Resource-Policy", "same-origin"},
        {"Cross-Origin-Opener-Policy", "same-origin"},
        {"Permissions-Policy", "camera=(), microphone=(), geolocation=()"}};
    struct evkeyvalq *headers = evhttp_request_get_output_headers(request);
    evhttp_add_header(headers, "Content-Security-Policy", policy);
    for (size_t i = 0; i < sizeof(all) / sizeof(all[0]); i++)
        evhttp_add_header(headers, all[i][0], all[i][1]);
    if (type)
        evhttp_add_header(headers, "Content-Type", type);
    if (!evhttp_find_header(headers, "Cache-Control"))
        evhttp_add_header(headers, "Cache-Control", "no-store");
}

static void give(struct evhttp_request *request, int code, const void *bytes,
                 size_t length)
{
    struct evbuffer *body = evbuffer_new();
    if (!body || evbuffer_add(body, bytes, length) != 0)
        abort();
    evhttp_send_reply(request, code, NULL, body);
    evbuffer_free(body);
}

void reply_empty(struct evhttp_request *request, int code)
{
    reply_headers(request, NULL);
    evhttp_send_reply(request, code, NULL, NULL);
}

void reply_bytes(struct evhttp_request *request, const char *type,
                 const void *bytes, size_t length, const char *etag)
{
    struct evkeyvalq *headers = evhttp_request_get_output_headers(request);
    if (etag) {
        evhttp_add_header(headers, "ETag", etag);
        evhttp_add_header(headers, "Cache-Control", "no-cache");
    }
    if (etag && strcmp(request_header(request, "If-None-Match"), etag) == 0) {
        reply_empty(request, HTTP_NOTMODIFIED);
        return;
    }
    reply_headers(request, type);
    give(request, HTTP_OK, bytes, length);
}

void reply_json(struct evhttp_request *request, int code, json_t *json)
{
    char etag[36] = "\"";
    unsigned char hash[16];
    char *text = json_dumps(json, JSON_COMPACT | JSON_REAL_PRECISION(10));
    json_decref(json);
    if (!text)
        abort();
    if (code == HTTP_OK) {
        crypto_generichash(hash, sizeof(hash), (const unsigned char *)text,
                           strlen(text), NULL, 0);
        sodium_bin2hex(etag + 1, sizeof(etag) - 1, hash, sizeof(hash));
        strncat(etag, "\"", 2);
        reply_bytes(request, "application/json", text, strlen(text), etag);
    } else {
        reply_headers(request, "application/json");
        give(request, code, text, strlen(text));
    }
    free(text);
}

void reply_error(struct evhttp_request *request, int code, const char *form,
                 ...)
{
    char text[ERROR_SIZE];
    va_list values;
    va_start(values, form);
    vsnprintf(text, sizeof(text), form, values);
    va_end(values);
    json_t *json = json_pack("{s:s}", "error", text);
    reply_json(request, code,
               json ? json : json_pack("{s:s}", "error", "no text"));
}

/* What is asked */

const char *request_header(struct evhttp_request *request, const char *name)
{
    const char *value =
        evhttp_find_header(evhttp_request_get_input_headers(request), name);
    return value ? value : "";
}

bool request_query(struct evhttp_request *request, const char *name,
                   char *value, size_t size)
{
    struct evkeyvalq pairs;
    const char *query =
        evhttp_uri_get_query(evhttp_request_get_evhttp_uri(request));
    bool found = false;
    if (!query || evhttp_parse_query_str(query, &pairs) != 0)
        return false;
    const char *text = evhttp_find_header(&pairs, name);
    if (text && strlen(text) < size) {
        snprintf(value, size, "%s", text);
        found = true;
    }
    evhttp_clear_headers(&pairs);
    return found;
}

json_t *request_json(struct evhttp_request *request)
{
    struct evbuffer *body = evhttp_request_get_input_buffer(request);
    size_t length = evbuffer_get_length(body);
    const char *text = length ? (const char *)evbuffer_pullup(body, -1) : NULL;
    return text ? json_loadb(text, length, JSON_REJECT_DUPLICATES, NULL) : NULL;
}

/* Later */

/* A request whose answer is under way is taken off a connection that breaks,
 * but goes with one that is closed by us. */
void reply_left(struct evhttp_request *request)
{
    if (!evhttp_request_get_connection(request))
        evhttp_request_free(request);
}

struct later {
    struct evhttp_request *_Atomic request;
};

static void left(struct evhttp_connection *connection, void *self)
{
    struct later *later = self;
    (void)connection;
    reply_left(later->request);
    later->request = NULL;
}

struct later *later_begin(struct evhttp_request *request)
{
    struct later *later = malloc(sizeof(*later));
    if (!later)
        abort();
    later->request = request;
    evhttp_connection_set_closecb(evhttp_request_get_connection(request), left,
                                  later);
    return later;
}

bool later_waits(const struct later *later)
{
    return later->request != NULL;
}

struct evhttp_request *later_end(struct later *later)
{
    struct evhttp_request *request = later->request;
    if (request)
        evhttp_connection_set_closecb(evhttp_request_get_connection(request),
                                      NULL, NULL);
    free(later);
    return request;
}

int64_t request_number(struct evhttp_request *request, const char *name,
                       int64_t otherwise, int64_t most)
{
    char text[24];
    char *end;
    if (!request_query(request, name, text, sizeof(text)))
        return otherwise;
    long long number = strtoll(text, &end, 10);
    if (end == text || *end || number < 0 || number > most)
        return otherwise;
    return number;
}
