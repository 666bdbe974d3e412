#include "door.h"

#include <stdio.h>
#include <string.h>
#include <strings.h>
#include <time.h>

#include "../common/note.h"
#include "reply.h"

#define COOKIE "cuplatch"

bool door_open(struct door *door, const char *keys_path, char *wrong,
               size_t size)
{
    sessions_open(&door->sessions, keys_path);
    return keys_open(&door->keys, keys_path, wrong, size);
}

/* By which name */

static size_t name_length(const char *host)
{
    const char *colon = strrchr(host, ':');
    const char *bracket = strchr(host, ']');
    return colon && (!bracket || colon > bracket) ? (size_t)(colon - host)
                                                  : strlen(host);
}

static bool is_among(const char *list, const char *word, size_t length)
{
    while (list && *list) {
        size_t next = strcspn(list, " ,");
        if (next == length && strncasecmp(list, word, length) == 0)
            return true;
        list += next;
        list += strspn(list, " ,");
    }
    return false;
}

bool door_is_loopback(const char *listen)
{
    size_t length = name_length(listen);
    return is_among("localhost [::1]", listen, length) ||
           (strncmp(listen, "127.", 4) == 0);
}

bool door_knows_host(const struct door *door, struct evhttp_request *request)
{
    const char *host = request_header(request, "Host");
    size_t length = name_length(host);
    if (is_among(door->names, host, length) ||
        (length == name_length(door->listen) &&
         strncasecmp(door->listen, host, length) == 0) ||
        (door_is_loopback(door->listen) &&
         is_among("localhost 127.0.0.1 [::1]", host, length)))
        return true;
    reply_error(request, 421,
                "this is not called so; put what it is called into names of "
                "[page]");
    return false;
}

/* From where */

static bool is_own_origin(const struct door *door,
                          struct evhttp_request *request, const char *origin)
{
    char own[300];
    snprintf(own, sizeof(own), "%s://%.250s", door->secure ? "https" : "http",
             request_header(request, "Host"));
    return strcasecmp(own, origin) == 0;
}

static const char *bearer_of(struct evhttp_request *request)
{
    const char *text = request_header(request, "Authorization");
    return strncasecmp(text, "Bearer ", 7) == 0 ? text + 7 : NULL;
}

/* A browser always says where a POST comes from; a program with a key of its
 * own needs not. */
bool door_believes(const struct door *door, struct evhttp_request *request)
{
    const char *origin = request_header(request, "Origin");
    const char *type = request_header(request, "Content-Type");
    bool post = evhttp_request_get_command(request) == EVHTTP_REQ_POST;
    bool own = *origin ? is_own_origin(door, request, origin)
                       : bearer_of(request) != NULL;
    if (!own)
        reply_error(request, 403, "this does not come from the page itself");
    else if (post && strncasecmp(type, "application/json", 16) != 0)
        reply_error(request, 415, "expected application/json");
    else
        return true;
    return false;
}

/* Who */

static void address_of(struct evhttp_request *request, char *address,
                       size_t size)
{
    char *peer = NULL;
    ev_uint16_t port;
    evhttp_connection_get_peer(evhttp_request_get_connection(request), &peer,
                               &port);
    snprintf(address, size, "%s", peer ? peer : "");
}

/* False where it must wait; it was answered. */
static bool may_try(struct door *door, struct evhttp_request *request,
                    const char *address)
{
    char text[24];
    int64_t wait = tries_wait(&door->tries, address, (int64_t)time(NULL));
    if (wait == 0)
        return true;
    snprintf(text, sizeof(text), "%lld", (long long)wait);
    evhttp_add_header(evhttp_request_get_output_headers(request), "Retry-After",
                      text);
    reply_error(request, 429, "too many wrong keys; wait for %s s", text);
    return false;
}

static const struct key *
try_key(struct door *door, struct evhttp_request *request, const char *text)
{
    char address[46];
    const struct key *key = keys_find(&door->keys, text);
    if (key)
        return key;
    address_of(request, address, sizeof(address));
    if (!may_try(door, request, address))
        return NULL;
    tries_wrong(&door->tries, address, (int64_t)time(NULL));
    note("page", NULL, "a wrong key from %s", address);
    reply_error(request, 401, "there is no such key");
    return NULL;
}

/* The token of the cookie; false: there is none. */
static bool token_of(struct evhttp_request *request, char token[TOKEN_SIZE])
{
    const char *at = request_header(request, "Cookie");
    while (*at) {
        size_t length = strcspn(at, ";");
        if (strncmp(at, COOKIE "=", sizeof(COOKIE)) == 0 &&
            length == sizeof(COOKIE) + TOKEN_SIZE - 1) {
            memcpy(token, at + sizeof(COOKIE), TOKEN_SIZE - 1);
            token[TOKEN_SIZE - 1] = '\0';
            return true;
        }
        at += length;
        at += strspn(at, "; ");
    }
    return false;
}

const struct key *door_session(struct door *door,
                               struct evhttp_request *request)
{
    char token[TOKEN_SIZE];
    keys_refresh(&door->keys);
    return token_of(request, token)
               ? sessions_find(&door->sessions, &door->keys, token,
                               (int64_t)time(NULL))
               : NULL;
}

const struct key *door_who(struct door *door, struct evhttp_request *request)
{
    const char *bearer = bearer_of(request);
    const struct key *key = door_session(door, request);
    if (bearer)
        return try_key(door, request, bearer);
    if (!key)
        reply_error(request, 401, "sign in with a key");
    return key;
}

void door_pass(struct evhttp_request *request, const struct key *who,
               struct pass *pass)
{
    char token[TOKEN_SIZE];
    *pass = (struct pass){.session = ""};
    memcpy(pass->key, who->hash, sizeof(pass->key));
    if (!bearer_of(request) && token_of(request, token))
        secret_hash(token, pass->session);
}

bool door_still_open(struct door *door, const struct pass *pass)
{
    bool known = false;
    keys_refresh(&door->keys);
    for (size_t i = 0; i < door->keys.count; i++)
        known |= strcmp(door->keys.list[i].hash, pass->key) == 0;
    return known &&
           (!*pass->session || sessions_holds(&door->sessions, pass->session,
                                              (int64_t)time(NULL)));
}

/* In and out */

static void set_cookie(const struct door *door, struct evhttp_request *request,
                       const char *token, long long seconds)
{
    char text[200];
    snprintf(text, sizeof(text),
             COOKIE "=%s; Path=/; Max-Age=%lld; HttpOnly; SameSite=Strict%s",
             token, seconds, door->secure ? "; Secure" : "");
    evhttp_add_header(evhttp_request_get_output_headers(request), "Set-Cookie",
                      text);
}

void door_sign_in(struct door *door, struct evhttp_request *request)
{
    char token[TOKEN_SIZE];
    json_t *body = request_json(request);
    const char *text = json_string_value(json_object_get(body, "key"));
    keys_refresh(&door->keys);
    if (!text)
        reply_error(request, HTTP_BADREQUEST, "expected {\"key\": \"...\"}");
    const struct key *key = text ? try_key(door, request, text) : NULL;
    json_decref(body);
    if (!key)
        return;
    if (!sessions_begin(&door->sessions, key, (int64_t)time(NULL), token))
        note(
            "page", NULL,
            "%s cannot be written: who signs in is forgotten at the next start",
            door->sessions.path);
    set_cookie(door, request, token, SESSION_S);
    note("page", NULL, "%s signed in", key->name);
    reply_json(
        request, HTTP_OK,
        json_pack("{s:s, s:b}", "name", key->name, "steers", key->steers));
}

void door_sign_out(struct door *door, struct evhttp_request *request)
{
    char token[TOKEN_SIZE];
    if (token_of(request, token))
        sessions_end(&door->sessions, token);
    set_cookie(door, request, "", 0);
    reply_empty(request, HTTP_NOCONTENT);
}
