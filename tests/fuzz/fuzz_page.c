/* Requests of any bytes to a page that listens at this machine. The first byte
 * says what they are: whole requests, the target of a GET with a key, the body
 * of a word or of a sign-in, or lines of the controller while somebody follows.
 */
#include <event2/event.h>
#include <jansson.h>
#include <netinet/in.h>
#include <stdbool.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <unistd.h>

#include "../../serve/page/keys.h"
#include "../../serve/page/page.h"
#include "../../serve/page/watch.h"
#include "bytes.h"

#define REQUEST_SIZE 8192
#define TURNS 12

static struct event_base *base;
static struct link_ear ear;
static struct words_desk *words;
static char key[KEY_SIZE];
static in_port_t port;

static bool is_free(in_port_t at)
{
    struct sockaddr_in address = {.sin_family = AF_INET,
                                  .sin_port = htons(at),
                                  .sin_addr.s_addr = htonl(INADDR_LOOPBACK)};
    int fd = socket(AF_INET, SOCK_STREAM, 0);
    bool free = bind(fd, (struct sockaddr *)&address, sizeof(address)) == 0;
    close(fd);
    return free;
}

static void hear(const char *text)
{
    json_t *line = json_loads(text, 0, NULL);
    if (!line)
        abort();
    ear.heard(ear.self, line);
    json_decref(line);
}

static void begin(void)
{
    static char listen[40];
    static char path[120];
    static struct keys keys;
    char wrong[240];
    snprintf(path, sizeof(path), "%s/keys", folder_of_ours());
    port = (in_port_t)(20000 + getpid() % 20000);
    while (!is_free(port))
        port++;
    snprintf(listen, sizeof(listen), "127.0.0.1:%d", port);
    if (!keys_open(&keys, path, wrong, sizeof(wrong)) ||
        !keys_add(&keys, "keeper", true, key, wrong, sizeof(wrong)))
        abort();
    base = event_base_new();
    words = words_open(base, NULL, NULL, true);
    const struct page_config config = {
        .listen = listen, .keys = path, .files = folder_of_ours()};
    struct page *page = page_open(base, &config, NULL, words);
    ear = page_ear(page, "garden", WATCH_EVENTS);
    ear.up(ear.self, true);
    hear(
        "{\"site\":{\"name\":\"G\",\"id\":\"g\",\"run\":\"r\",\"things\":[]}}");
    hear(
        "{\"now\":{\"t\":1,\"levels\":{\"a\":{\"value\":1}},\"standing\":[]}}");
}

static int dial(void)
{
    struct sockaddr_in address = {.sin_family = AF_INET,
                                  .sin_port = htons(port),
                                  .sin_addr.s_addr = htonl(INADDR_LOOPBACK)};
    int fd = socket(AF_INET, SOCK_STREAM, 0);
    struct linger at_once = {1, 0}; /* no port waits for what may still come */
    setsockopt(fd, SOL_SOCKET, SO_LINGER, &at_once, sizeof(at_once));
    if (connect(fd, (struct sockaddr *)&address, sizeof(address)) != 0)
        abort();
    return fd;
}

static void turn(void)
{
    for (int i = 0; i < TURNS; i++)
        event_base_loop(base, EVLOOP_NONBLOCK);
}

static size_t request_of(char kind, const uint8_t *bytes, size_t count,
                         char *request)
{
    int used = 0;
    if (kind == 'g')
        used = snprintf(request, REQUEST_SIZE,
                        "GET /%.*s HTTP/1.1\r\nHost: localhost\r\n"
                        "Authorization: Bearer %s\r\n\r\n",
                        (int)count, (const char *)bytes, key);
    else if (kind == 't' || kind == 's')
        used = snprintf(request, REQUEST_SIZE,
                        "POST /%s HTTP/1.1\r\nHost: localhost\r\n"
                        "Authorization: Bearer %s\r\n"
                        "Content-Type: application/json\r\n"
                        "Content-Length: %zu\r\n\r\n",
                        kind == 't' ? "tell" : "session", key, count);
    if (kind == 'g')
        return (size_t)used < REQUEST_SIZE ? (size_t)used : REQUEST_SIZE - 1;
    memcpy(request + used, bytes, count);
    return (size_t)used + count;
}

/* Lines as a link hands them over: JSON objects. */
static void hear_lines(const uint8_t *bytes, size_t count)
{
    const char *at = (const char *)bytes;
    while (count > 0) {
        const char *end = memchr(at, '\n', count);
        size_t length = end ? (size_t)(end - at) : count;
        json_t *line = json_loadb(at, length, JSON_REJECT_DUPLICATES, NULL);
        if (line && json_object_get(line, "done"))
            words_answered(words, NULL, line);
        else if (line)
            ear.heard(ear.self, line);
        json_decref(line);
        length += end != NULL;
        at += length;
        count -= length;
    }
}

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count)
{
    char request[REQUEST_SIZE];
    char answer[4096];
    if (!base)
        begin();
    if (count < 2 || count > 4096)
        return 0;
    int fd = dial();
    bool lines = bytes[0] == 'l';
    size_t length =
        lines ? request_of('g', (const uint8_t *)"follow", 6, request)
              : request_of((char)bytes[0], bytes + 1, count - 1, request);
    (void)!send(fd, request, length, MSG_NOSIGNAL);
    turn();
    if (lines)
        hear_lines(bytes + 1, count - 1);
    turn();
    ssize_t got = recv(fd, answer, sizeof(answer), MSG_DONTWAIT);
    if (got > 0 && strncmp(answer, "HTTP/", 5) != 0)
        abort();
    close(fd);
    turn();
    return 0;
}
