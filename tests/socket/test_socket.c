/* The local socket of a controller that runs, by its own client and by peers
 * that behave badly. */
#include "../../socket/client.h"

#include <errno.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/resource.h>
#include <sys/socket.h>
#include <sys/un.h>
#include <sys/wait.h>
#include <unistd.h>

#include "../harness/harness.h"

#define KEEPER KEEPER_DIR "/keeper.ini"
#define GARDEN KEEPER_DIR "/keeper.garden.ini"
#define WAIT_MS 20000

static char at[64];
static pid_t child;
static FILE *said; /* what the controller says on stderr */

/* Starts a controller; it is there once it said so. */
static FILE *start(const char *speed, pid_t *pid)
{
    int ends[2];
    char line[400];
    if (pipe(ends) != 0)
        abort();
    *pid = fork();
    if (*pid == 0) {
        dup2(ends[1], STDERR_FILENO);
        execl(CUPLATCH, "cuplatch", "run", KEEPER, "--port", "sim", "--garden",
              GARDEN, "--from", "2031-05-10", "--speed", speed, "--socket", at,
              (char *)NULL);
        _exit(127);
    }
    close(ends[1]);
    FILE *in = fdopen(ends[0], "r");
    harness_at("%s", in && fgets(line, sizeof(line), in) ? line : "nothing");
    return in;
}

static void begin(const char *speed)
{
    snprintf(at, sizeof(at), "/tmp/cup_socket.%d", (int)getpid());
    said = start(speed, &child);
}

/* It ends by itself when it is told to, and takes its socket with it. */
static void end(void)
{
    int status = -1;
    kill(child, SIGTERM);
    waitpid(child, &status, 0);
    CHECK_INT(status, 0);
    CHECK(access(at, F_OK) != 0);
    fclose(said);
    harness_at(NULL);
}

static json_t *exchange(struct client *client, json_t *line)
{
    CHECK(client_say(client, line));
    return client_hear(client, WAIT_MS);
}

/* The next line that has a member of that name; the caller owns it. */
static json_t *hear(struct client *client, const char *name)
{
    json_t *line;
    while ((line = client_hear(client, WAIT_MS))) {
        if (json_object_get(line, name))
            return line;
        json_decref(line);
    }
    return NULL;
}

static bool is_done(const json_t *answer)
{
    return json_is_true(json_object_get(answer, "done"));
}

static const char *first_answer(const json_t *answer)
{
    const char *text = json_string_value(
        json_array_get(json_object_get(answer, "answers"), 0));
    return text ? text : "";
}

CASE(questions_are_answered_and_words_are_taken)
{
    begin("10");
    struct client *client = client_open(at);
    CHECK(client != NULL);
    json_t *answer = exchange(client, json_pack("{s:i, s:[s, s]}", "id", 8,
                                                "ask", "levels", "why lift"));
    CHECK(is_done(answer));
    CHECK_INT(json_integer_value(json_object_get(answer, "id")), 8);
    CHECK(strstr(first_answer(answer), "header ") != NULL);
    json_decref(answer);
    answer = exchange(client, json_pack("{s:[s]}", "tell", "lift off"));
    CHECK(is_done(answer));
    CHECK_TEXT(first_answer(answer), "done");
    json_decref(answer);
    json_decref(exchange(client, json_pack("{s:{}}", "follow")));
    answer = hear(client, "now");
    json_t *pumps = json_object_get(json_object_get(answer, "now"), "pumps");
    CHECK_TEXT(json_string_value(
                   json_object_get(json_object_get(pumps, "lift"), "switch")),
               "off");
    json_decref(answer);
    client_close(client);
    end();
}

/* Keeper's has no speakers: what is said of who it was counts for nothing. */
CASE(who_told_is_known_by_the_kernel)
{
    begin("10");
    struct client *client = client_open(at);
    json_decref(exchange(client, json_pack("{s:{}}", "follow")));
    CHECK(client_say(client, json_pack("{s:[s], s:s}", "tell", "lift off", "by",
                                       "the mayor")));
    json_t *line = hear(client, "event");
    const json_t *event = json_object_get(line, "event");
    while (line && !json_object_get(event, "by")) {
        json_decref(line);
        line = hear(client, "event");
        event = json_object_get(line, "event");
    }
    const char *by = json_string_value(json_object_get(event, "by"));
    CHECK(by && strcmp(by, "the mayor") != 0);
    CHECK(!json_object_get(event, "user"));
    json_decref(line);
    client_close(client);
    end();
}

CASE(samples_are_counted)
{
    begin("60");
    struct client *client = client_open(at);
    json_decref(exchange(client, json_pack("{s:{}}", "follow")));
    json_int_t last = 0;
    for (int i = 0; i < 4; i++) {
        json_t *line = hear(client, "now");
        const json_t *level = json_object_get(
            json_object_get(json_object_get(line, "now"), "levels"),
            "header_echo");
        json_int_t samples =
            json_integer_value(json_object_get(level, "samples"));
        CHECK(samples > last); /* every 2 s of a minute */
        CHECK(json_integer_value(json_object_get(level, "rejects")) <= samples);
        last = samples;
        json_decref(line);
    }
    client_close(client);
    end();
}

CASE(a_list_of_words_is_taken_whole_or_not_at_all)
{
    begin("10");
    struct client *client = client_open(at);
    json_t *answer = exchange(
        client, json_pack("{s:[s, s]}", "tell", "lift off", "lift sideways"));
    CHECK(answer && !is_done(answer));
    CHECK_INT(json_integer_value(json_object_get(answer, "word")), 1);
    CHECK(json_is_string(json_object_get(answer, "error")));
    json_decref(answer);
    answer = exchange(
        client, json_pack("{s:[s, s]}", "tell", "lift off", "kale.start 99%"));
    CHECK(answer && !is_done(answer));
    json_decref(answer);
    answer = exchange(client, json_pack("{s:[s]}", "ask", "why lift"));
    CHECK(!strstr(first_answer(answer), "switched off"));
    json_decref(answer);
    client_close(client);
    end();
}

CASE(a_follower_hears_the_site_then_all_then_what_changed)
{
    begin("10"); /* some are asked every minute, some every five */
    struct client *client = client_open(at);
    json_t *site = exchange(client, json_pack("{s:{}}", "follow"));
    CHECK(json_object_get(site, "site") != NULL);
    json_decref(site);
    json_t *whole = hear(client, "now");
    json_t *changed = hear(client, "now");
    json_t *all = json_object_get(json_object_get(whole, "now"), "levels");
    json_t *some = json_object_get(json_object_get(changed, "now"), "levels");
    CHECK_INT(json_object_size(all), 16);
    CHECK(json_object_get(json_object_get(all, "bin_range"), "rejects"));
    CHECK(!json_object_get(json_object_get(all, "bin_range"), "litres"));
    json_t *lift = json_object_get(
        json_object_get(json_object_get(whole, "now"), "pumps"), "lift");
    CHECK(json_is_integer(json_object_get(lift, "left_s"))); /* after boot */
    CHECK(json_object_size(some) < json_object_size(all));
    json_decref(whole);
    json_decref(changed);
    client_close(client);
    end();
}

/* Numbers of the next events; the first of them is returned. */
static json_int_t count_on(struct client *client, int count, json_int_t *last)
{
    json_int_t first = -1;
    for (int i = 0; i < count; i++) {
        json_t *line = hear(client, "event");
        json_int_t number = json_integer_value(
            json_object_get(json_object_get(line, "event"), "number"));
        if (i == 0)
            first = number;
        else
            CHECK_INT(number, *last + 1);
        *last = number;
        json_decref(line);
    }
    return first;
}

CASE(a_follower_that_comes_back_gets_what_it_missed)
{
    begin("20000");
    struct client *client = client_open(at);
    json_t *site =
        exchange(client, json_pack("{s:{s:i}}", "follow", "since", -1));
    char run[40] = "";
    const char *name = json_string_value(
        json_object_get(json_object_get(site, "site"), "run"));
    snprintf(run, sizeof(run), "%s", name ? name : "");
    json_decref(site);
    json_int_t last = 0;
    CHECK_INT(count_on(client, 20, &last), 0);
    client_close(client);
    client = client_open(at);
    client_say(client, json_pack("{s:{s:s, s:I}}", "follow", "run", run,
                                 "since", last));
    json_int_t missed = last + 1;
    CHECK_INT(count_on(client, 5, &last), missed);
    client_close(client);
    /* what cannot have been: what comes next, or all */
    client = client_open(at);
    client_say(client, json_pack("{s:{s:s, s:I}}", "follow", "run", run,
                                 "since", (json_int_t)INT64_MAX));
    CHECK(count_on(client, 1, &last) > missed);
    client_close(client);
    client = client_open(at);
    client_say(client, json_pack("{s:{s:s, s:I}}", "follow", "run", run,
                                 "since", (json_int_t)INT64_MIN));
    CHECK_INT(count_on(client, 5, &last), 0);
    client_close(client);
    /* of another start it knows nothing: all from the beginning */
    client = client_open(at);
    client_say(client, json_pack("{s:{s:s, s:I}}", "follow", "run", "another",
                                 "since", last));
    CHECK_INT(count_on(client, 3, &last), 0);
    client_close(client);
    end();
}

/* What the controller has computed so far, in ticks of a hundredth. */
static long ticks(void)
{
    char path[60];
    char line[600] = "";
    long user = -1;
    long system = -1;
    snprintf(path, sizeof(path), "/proc/%d/stat", (int)child);
    FILE *in = fopen(path, "r");
    if (!in || !fgets(line, sizeof(line), in))
        abort();
    fclose(in);
    const char *rest = strrchr(line, ')');
    if (!rest || sscanf(rest,
                        ") %*c %*d %*d %*d %*d %*d %*u %*u %*u %*u %*u "
                        "%ld %ld",
                        &user, &system) != 2)
        abort();
    return user + system;
}

/* Lets it open no more files, or as many as before. */
static void let_open(bool more)
{
    static struct rlimit before;
    char path[60];
    unsigned unused = 0;
    do /* the lowest number is the next that is given */
        snprintf(path, sizeof(path), "/proc/%d/fd/%u", (int)child, unused++);
    while (access(path, F_OK) == 0 || errno == EACCES);
    if (!more && prlimit(child, RLIMIT_NOFILE, NULL, &before) != 0)
        abort();
    struct rlimit limit = before;
    if (!more)
        limit.rlim_cur = unused - 1;
    if (prlimit(child, RLIMIT_NOFILE, &limit, NULL) != 0)
        abort();
}

/* With nothing left to open it with, somebody who knocks costs nothing, and is
 * let in as soon as there is. */
CASE(who_cannot_be_let_in_does_not_keep_it_busy)
{
    begin("1");
    let_open(false);
    struct client *client = client_open(at);
    const long before = ticks();
    sleep(2);
    CHECK(ticks() - before < 100);
    let_open(true);
    json_t *answer = exchange(client, json_pack("{s:[s]}", "ask", "levels"));
    CHECK(is_done(answer));
    json_decref(answer);
    client_close(client);
    end();
}

static int dial(void)
{
    struct sockaddr_un address = {.sun_family = AF_UNIX};
    int fd = socket(AF_UNIX, SOCK_STREAM, 0);
    snprintf(address.sun_path, sizeof(address.sun_path), "%s", at);
    if (connect(fd, (struct sockaddr *)&address, sizeof(address)) != 0)
        abort();
    return fd;
}

/* Whether the other end lets go within some time. */
static bool is_let_go(int fd)
{
    char bytes[4096];
    struct timeval patience = {.tv_sec = WAIT_MS / 1000};
    ssize_t got;
    setsockopt(fd, SOL_SOCKET, SO_RCVTIMEO, &patience, sizeof(patience));
    do
        got = recv(fd, bytes, sizeof(bytes), 0);
    while (got > 0);
    return got == 0 || errno == ECONNRESET;
}

/* One is mute, one speaks garbage as fast as it can, one says half a line, one
 * says a line without an end; a follower among them hears every event. */
CASE(who_behaves_badly_holds_nobody_up)
{
    begin("60000");
    int mute = dial();
    int half = dial();
    int garbage = dial();
    int endless = dial();
    char rubbish[65536];
    memset(rubbish, 'x', sizeof(rubbish));
    CHECK(send(mute, "{\"follow\":{\"since\":-1}}\n", 24, 0) == 24);
    CHECK(send(half, "{\"ask\":[\"lev", 12, 0) == 12);
    struct client *client = client_open(at);
    client_say(client, json_pack("{s:{s:i}}", "follow", "since", -1));
    json_int_t last = 0;
    for (int i = 0; i < 20; i++) {
        for (int k = 0; k < 400; k++)
            send(garbage, "}{\n[[[\n\"\n\x01\n", 11,
                 MSG_DONTWAIT | MSG_NOSIGNAL);
        send(endless, rubbish, sizeof(rubbish), MSG_DONTWAIT | MSG_NOSIGNAL);
        count_on(client, 5, &last);
    }
    CHECK_INT(last, 99);
    client_close(client);
    close(mute);
    close(half);
    close(garbage);
    CHECK(is_let_go(endless));
    close(endless);
    end();
}

/* What is said back with each answer is short, and nothing nests deeply. */
CASE(ids_are_short_and_lines_are_flat)
{
    static char deep[60000];
    char answer[300] = "";
    char id[80];
    begin("1");
    struct client *client = client_open(at);
    memset(id, 'x', 65);
    id[65] = '\0';
    json_t *json =
        exchange(client, json_pack("{s:s, s:[s]}", "id", id, "ask", "days"));
    CHECK_TEXT(json_string_value(json_object_get(json, "error")),
               "id: expected a number, or a text of at most 64 bytes");
    json_decref(json);
    id[64] = '\0';
    json = exchange(client, json_pack("{s:s, s:[s]}", "id", id, "ask", "days"));
    CHECK_TEXT(json_string_value(json_object_get(json, "id")), id);
    json_decref(json);
    client_close(client);
    memset(deep, '[', sizeof(deep));
    for (size_t i = 0; i < 6; i++)
        deep[i] = "{\"id\":"[i];
    deep[sizeof(deep) - 1] = '\n';
    int fd = dial();
    CHECK(send(fd, deep, sizeof(deep), 0) == (ssize_t)sizeof(deep));
    CHECK(recv(fd, answer, sizeof(answer) - 1, 0) > 0);
    CHECK_TEXT(answer,
               "{\"done\":false,\"error\":\"a line nests at most 4 deep\"}\n");
    close(fd);
    end();
}

/* As a script does that pipes one line in: it shuts its end, and waits. */
CASE(who_says_no_more_still_gets_the_answer)
{
    begin("1");
    char answer[400] = "";
    size_t used = 0;
    ssize_t got;
    int fd = dial();
    CHECK(send(fd, "{\"tell\":[\"lift off\"]}\n", 22, 0) == 22);
    shutdown(fd, SHUT_WR);
    while (used < sizeof(answer) - 1 &&
           (got = recv(fd, answer + used, sizeof(answer) - 1 - used, 0)) > 0)
        used += (size_t)got;
    CHECK_TEXT(answer, "{\"done\":true,\"answers\":[\"done\"]}\n");
    close(fd);
    end();
}

CASE(there_is_room_for_thirty_two)
{
    begin("60");
    int fds[32];
    for (int i = 0; i < 32; i++) {
        fds[i] = dial();
        CHECK(send(fds[i], "{\"follow\":{}}\n", 14, 0) == 14);
        char byte;
        CHECK(recv(fds[i], &byte, 1, 0) == 1); /* it was heard */
    }
    int late = dial();
    CHECK(is_let_go(late));
    close(late);
    close(fds[7]);
    /* a place is free once that was seen */
    struct client *client = NULL;
    json_t *answer = NULL;
    for (int tries = 0; tries < 1000 && !answer; tries++) {
        if (client)
            client_close(client);
        client = client_open(at);
        if (client_say(client, json_pack("{s:[s]}", "ask", "alerts")))
            answer = client_hear(client, WAIT_MS);
    }
    CHECK(is_done(answer));
    json_decref(answer);
    client_close(client);
    for (int i = 0; i < 32; i++)
        if (i != 7)
            close(fds[i]);
    end();
}

CASE(a_second_controller_is_refused_and_a_dead_ones_socket_taken_over)
{
    begin("10");
    pid_t other;
    int status = -1;
    FILE *told = start("10", &other);
    waitpid(other, &status, 0);
    fclose(told);
    CHECK(WIFEXITED(status) && WEXITSTATUS(status) == 3);
    kill(child, SIGKILL);
    waitpid(child, &status, 0);
    fclose(said);
    CHECK(access(at, F_OK) == 0);
    said = start("10", &child);
    struct client *client = client_open(at);
    CHECK(client != NULL);
    client_close(client);
    end();
}
