/* Broker, page and local socket attacked at once, by messages that have the
 * shape of good ones in part: nothing ends, nobody else is kept waiting, and
 * the controller's passes come in time. CUPLATCH_SIEGE says how many messages
 * each attacker sends. */
#include <arpa/inet.h>
#include <fcntl.h>
#include <mosquitto.h>
#include <netinet/in.h>
#include <poll.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <sys/un.h>
#include <sys/wait.h>
#include <unistd.h>

#include "../../socket/client.h"
#include "../harness/harness.h"
#include "listener.h"
#include "programs.h"

NEEDS_PROGRAM("mosquitto")

#define MESSAGE 6000
#define MESSAGES 1500
/* The most that the last but one in a thousand passes may come late. */
#define LATE_MOST_MS 150.0

static int page_port;

/* A message in the making: cut where it is full. */
struct message {
    char text[MESSAGE];
    size_t length;
};

static void add(struct message *message, const char *text)
{
    size_t left = sizeof(message->text) - message->length;
    int count = snprintf(message->text + message->length, left, "%s", text);
    message->length += (size_t)count < left ? (size_t)count : left - 1;
}

#define PICK(chance, list)                                                     \
    (list)[chance_between(chance, 0,                                           \
                          (int32_t)(sizeof(list) / sizeof((list)[0])) - 1)]

/* JSON of any shape, of words that mean something. */
static void add_value(struct message *message, struct chance *chance, int deep)
{
    static const char *const plain[] = {"0",
                                        "-1",
                                        "1e308",
                                        "9223372036854775807",
                                        "-0.0",
                                        "true",
                                        "null",
                                        "\"\"",
                                        "\"lift off\"",
                                        "\"site hold\"",
                                        "\"site go\"",
                                        "\"levels\"",
                                        "\"why lift\"",
                                        "\"\\u0000\\u001b[2J\"",
                                        "\"\\ud800\"",
                                        "\"header\"",
                                        "\"../../etc\"",
                                        "1900000000",
                                        "\"yes somebody\""};
    static const char *const keys[] = {
        "\"id\":",     "\"tell\":",   "\"ask\":",     "\"follow\":",
        "\"since\":",  "\"run\":",    "\"by\":",      "\"t\":",
        "\"number\":", "\"levels\":", "\"header\":",  "\"after\":",
        "\"event\":",  "\"value\":",  "\"quality\":", "\"\":"};
    if (deep > 6 || chance_of(chance, 40)) {
        add(message, PICK(chance, plain));
        return;
    }
    bool list = chance_of(chance, 40);
    add(message, list ? "[" : "{");
    for (int i = chance_between(chance, 0, 4); i > 0; i--) {
        if (!list)
            add(message, PICK(chance, keys));
        add_value(message, chance, deep + 1);
        add(message, i > 1 ? "," : "");
    }
    add(message, list ? "]" : "}");
    if (chance_of(chance, 5))
        message->length -= message->length > 3 ? 2 : 0; /* torn */
    message->text[message->length] = '\0';
}

static void make_json(struct message *message, struct chance *chance)
{
    message->length = 0;
    if (chance_of(chance, 5))
        for (int i = chance_between(chance, 1, 2000); i > 0; i--)
            add(message, "[");
    add_value(message, chance, 0);
}

static int dial(bool local)
{
    struct sockaddr_un here = {.sun_family = AF_UNIX};
    struct sockaddr_in there = {.sin_family = AF_INET,
                                .sin_port = htons((uint16_t)page_port),
                                .sin_addr.s_addr = htonl(INADDR_LOOPBACK)};
    snprintf(here.sun_path, sizeof(here.sun_path), "%s", in_dir("socket"));
    int fd = socket(local ? AF_UNIX : AF_INET, SOCK_STREAM, 0);
    int failed = local ? connect(fd, (struct sockaddr *)&here, sizeof(here))
                       : connect(fd, (struct sockaddr *)&there, sizeof(there));
    if (failed) {
        close(fd);
        return -1;
    }
    fcntl(fd, F_SETFL, O_NONBLOCK);
    return fd;
}

/* What cannot go at once does not go. */
static void shoot(int fd, const char *text, size_t length)
{
    char back[4096];
    if (fd < 0)
        return;
    (void)!send(fd, text, length, MSG_NOSIGNAL);
    while (recv(fd, back, sizeof(back), 0) > 0)
        ;
}

static void attack_socket(struct chance *chance, int count)
{
    static struct message message;
    int fds[12];
    for (size_t i = 0; i < 12; i++)
        fds[i] = dial(true);
    for (int i = 0; i < count; i++) {
        int *fd = &PICK(chance, fds);
        make_json(&message, chance);
        if (chance_of(chance, 90))
            add(&message, "\n");
        if (*fd < 0 || chance_of(chance, 3)) {
            close(*fd);
            *fd = dial(true);
        }
        shoot(*fd, message.text, message.length);
        nap(chance_of(chance, 10) ? 5 : 0);
    }
}

static void attack_page(struct chance *chance, int count)
{
    static const char *const methods[] = {
        "GET ", "POST ", "PUT ", "HEAD ", "DELETE ", "OPTIONS ", "PATCH "};
    static const char *const paths[] = {
        "/now",         "/site",     "/history?names=header&from=0&to=9e9",
        "/log?most=-1", "/follow",   "/tell",
        "/session",     "/%2e%2e/x", "/history?names=,,,,&from=x",
        "/?",           "//",        "/now?x=%zz"};
    static const char *const headers[] = {"Host: 127.0.0.1\r\n",
                                          "Host: elsewhere\r\n",
                                          "Authorization: Bearer a\r\n",
                                          "Cookie: cuplatch=aaaa\r\n",
                                          "Content-Type: application/json\r\n",
                                          "Content-Length: 99999\r\n",
                                          "Content-Length: 12\r\n",
                                          "Transfer-Encoding: chunked\r\n",
                                          "Last-Event-ID: x\r\n",
                                          "Origin: null\r\n",
                                          "If-None-Match: \"\"\r\n",
                                          "X: \033[2J\r\n"};
    static struct message message;
    for (int i = 0; i < count; i++) {
        int fd = dial(false);
        message.length = 0;
        add(&message, PICK(chance, methods));
        add(&message, PICK(chance, paths));
        add(&message, chance_of(chance, 90) ? " HTTP/1.1\r\n" : " HTTP/9\r\n");
        for (int n = chance_between(chance, 0, 6); n > 0; n--)
            add(&message, PICK(chance, headers));
        add(&message, "\r\n");
        if (chance_of(chance, 50))
            add_value(&message, chance, 0);
        shoot(fd, message.text, message.length);
        struct pollfd answer = {.fd = fd, .events = POLLIN};
        poll(&answer, 1, 2);
        close(fd);
    }
}

static void attack_broker(struct chance *chance, int count)
{
    static const char *const topics[] = {
        "yard/keeper/words",        "yard/keeper/again",
        "yard/keeper/here",         "yard/keeper/site",
        "yard/keeper/levels/x",     "yard/keeper/levels/header",
        "yard/keeper/answers",      "yard/other/words",
        "yard/keeper/outputs/lift", "yard/keeper/missed",
        "yard/keeper/events",       "yard/keeper/words/x"};
    static struct message message;
    mosquitto_lib_init();
    struct mosquitto *mqtt = mosquitto_new(NULL, true, NULL);
    if (mosquitto_connect(mqtt, "127.0.0.1", port, 20) != MOSQ_ERR_SUCCESS)
        _exit(1);
    for (int i = 0; i < count; i++) {
        make_json(&message, chance);
        mosquitto_publish(mqtt, NULL, PICK(chance, topics), (int)message.length,
                          message.text, chance_between(chance, 0, 1),
                          chance_of(chance, 10));
        mosquitto_loop(mqtt, 0, 1);
    }
    mosquitto_disconnect(mqtt);
    mosquitto_destroy(mqtt);
}

static pid_t begin_attack(void (*attack)(struct chance *chance, int count),
                          uint64_t seed, int count)
{
    fflush(NULL);
    pid_t pid = fork();
    if (pid != 0)
        return pid;
    struct chance chance = chance_from(seed);
    attack(&chance, count);
    _exit(0);
}

static bool answers(void)
{
    struct client *client = client_open(in_dir("socket"));
    bool done = false;
    for (int i = 0; client && !done && i < 20; i++) {
        if (client_say(client, json_pack("{s:[s]}", "ask", "levels"))) {
            json_t *answer = client_hear(client, 5000);
            done = json_is_true(json_object_get(answer, "done"));
            json_decref(answer);
        }
        if (!done) { /* all places were taken a moment ago */
            client_close(client);
            nap(100);
            client = client_open(in_dir("socket"));
        }
    }
    if (client)
        client_close(client);
    return done;
}

static bool page_answers(void)
{
    char back[200] = "";
    int fd = dial(false);
    static const char asks[] =
        "GET /now HTTP/1.1\r\nHost: 127.0.0.1\r\nConnection: close\r\n\r\n";
    if (fd < 0 || send(fd, asks, sizeof(asks) - 1, MSG_NOSIGNAL) < 0)
        return false;
    struct pollfd answer = {.fd = fd, .events = POLLIN};
    poll(&answer, 1, 10000);
    (void)!recv(fd, back, sizeof(back) - 1, 0);
    close(fd);
    return strstr(back, " 401 ") != NULL;
}

/* What the controller says of its passes when it ends, in ms; -1: nothing. */
static double late_ms(void)
{
    char line[300];
    double late = -1;
    FILE *in = fopen(in_dir("garden.log"), "r");
    while (in && fgets(line, sizeof(line), in)) {
        const char *at = strstr(line, "came at most ");
        if (at && strncmp(at + 13, "more", 4) == 0)
            late = 1e9;
        else if (at)
            late = strtod(at + 13, NULL);
    }
    if (in)
        fclose(in);
    return late;
}

CASE(nothing_from_outside_ends_or_delays_anything)
{
    const char *times = getenv("CUPLATCH_SIEGE");
    int count = times ? atoi(times) : MESSAGES;
    char more[400];
    char keys[200];
    page_port = free_port();
    begin("siege", "", "allow_anonymous true");
    snprintf(keys, sizeof(keys), "%s", in_dir("keys"));
    snprintf(more, sizeof(more),
             "words = yes\n\n[page]\nlisten = 127.0.0.1:%d\nkeys = %s\n",
             page_port, keys);
    FILE *config = fopen(in_dir("serve.ini"), "a");
    fputs(more, config);
    fclose(config);
    broker = start_broker();
    garden = start_garden_of(GARDEN "/keeper.ini", "20");
    serve = start_serve(0);
    listen_in(NULL, NULL);
    CHECK(wait_for("yard/keeper/here", "yes "));
    uint64_t seed = harness_seed();
    pid_t attackers[] = {begin_attack(attack_socket, seed, count),
                         begin_attack(attack_page, seed + 1, count),
                         begin_attack(attack_broker, seed + 2, count)};
    for (size_t i = 0; i < 3; i++) {
        int status = 0;
        waitpid(attackers[i], &status, 0);
        CHECK_INT(status, 0);
    }
    CHECK(answers());
    CHECK(page_answers());
    CHECK_INT(kill(garden, 0), 0);
    CHECK_INT(finish(serve, SIGTERM), 0);
    CHECK_INT(finish(garden, SIGTERM), 0);
    double late = late_ms();
    harness_at("999 of 1000 passes came at most %.1f ms late", late);
    CHECK(late >= 0 && late < LATE_MOST_MS);
    harness_at(NULL);
    printf("# 999 of 1000 passes came at most %.1f ms late\n", late);
    stop_listening();
    finish(broker, SIGTERM);
    folder_end();
}
