/* A controller, the cuplatch-serve beside it, a broker, and another serve far
 * away: what is told here is known there, whoever of them is killed. */
#include <jansson.h>
#include <mosquitto.h>
#include <signal.h>
#include <sqlite3.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/wait.h>
#include <time.h>
#include <unistd.h>

#include "../../kept/ring.h"
#include "../harness/harness.h"
#include "../linux/bench.h"
#include "programs.h"

NEEDS_PROGRAM("mosquitto")

#define SAME_TURNS 400

static int port;
static pid_t broker, garden, home, far;

static void start_broker(void)
{
    const char *const words[] = {find_program("mosquitto"), "-c",
                                 in_dir("broker.conf"), NULL};
    broker = start(words, "broker.log", 0);
}

static void start_garden(void)
{
    char journal[200];
    const char *const more[] = {"--journal", journal, NULL};
    snprintf(journal, sizeof(journal), "%s", bench_path("journal"));
    garden = bench_run(more);
}

static void start_home(void)
{
    home = start_serve_of("home.ini", "home.log");
}

static void start_far(void)
{
    far = start_serve_of("far.ini", "serve.log");
}

static void copy_file(const char *from, const char *to)
{
    char text[2000];
    FILE *in = fopen(from, "r");
    size_t length = in ? fread(text, 1, sizeof(text) - 1, in) : 0;
    CHECK(length > 0);
    if (in)
        fclose(in);
    text[length] = '\0';
    bench_write(to, text);
}

static void begin(const char *name, const char *words)
{
    char text[900];
    folder_begin(name);
    bench_make(name);
    copy_file(FAR "/far.ini", "site.ini");
    copy_file(FAR "/far.pins.ini", "pins.ini");
    port = free_port();
    snprintf(text, sizeof(text),
             "listener %d 127.0.0.1\nallow_anonymous true\nuser root\n", port);
    write_text("broker.conf", text);
    snprintf(text, sizeof(text),
             "[plot]\nis = site\nsocket = %s\n\n[history]\nfile = %s\n\n"
             "[broker]\nurl = mqtt://127.0.0.1:%d\nbase = coop\nwords = %s\n",
             bench_path("socket"), in_dir("home.db"), port, words);
    write_text("home.ini", text);
    snprintf(text, sizeof(text),
             "[coop]\nis = sites\nbroker = mqtt://127.0.0.1:%d\nbase = coop\n"
             "\n[history]\nfile = %s\n",
             port, in_dir("far.db"));
    write_text("far.ini", text);
    start_broker();
    start_garden();
    start_home();
    start_far();
}

static void end_all(void)
{
    CHECK_INT(finish(far, SIGTERM), 0);
    CHECK_INT(finish(home, SIGTERM), 0);
    CHECK_INT(bench_end(garden, SIGTERM), 0);
    finish(broker, SIGTERM);
    bench_remove();
    folder_end();
}

/* What was heard of its events, a line each, in order; the caller frees it. */
static char *events_of(const char *name, long *count)
{
    sqlite3 *file;
    sqlite3_stmt *row;
    char *text = NULL;
    size_t size;
    FILE *out = open_memstream(&text, &size);
    *count = 0;
    if (sqlite3_open_v2(in_dir(name), &file, SQLITE_OPEN_READWRITE, NULL) ==
            SQLITE_OK &&
        sqlite3_prepare_v2(file,
                           "SELECT kind || ' ' || ifnull(why, '') FROM events "
                           "ORDER BY event",
                           -1, &row, NULL) == SQLITE_OK) {
        while (sqlite3_step(row) == SQLITE_ROW) {
            fprintf(out, "%s\n", sqlite3_column_text(row, 0));
            ++*count;
        }
        sqlite3_finalize(row);
    }
    sqlite3_close(file);
    fclose(out);
    return text;
}

static void write_recorded(void *self, const char *line)
{
    json_t *event = json_loads(line, 0, NULL);
    const char *why = json_string_value(json_object_get(event, "why"));
    fprintf(self, "%s %s\n", json_string_value(json_object_get(event, "kind")),
            why ? why : "");
    json_decref(event);
}

/* Those that the controller itself has on its disk. */
static char *recorded(void)
{
    char *text = NULL;
    size_t size;
    char beside[200];
    FILE *out = open_memstream(&text, &size);
    snprintf(beside, sizeof(beside), "%s", bench_path("journal"));
    ring_read(beside, 100000, write_recorded, out);
    fclose(out);
    return text;
}

static bool are_same(long *count, bool shows)
{
    long far_count;
    char *there = events_of("far.db", &far_count);
    char *here = events_of("home.db", count);
    char *record = recorded();
    bool same = strcmp(here, there) == 0 && strcmp(here, record) == 0;
    if (shows && !same)
        printf("here %ld\n%sthere %ld\n%srecorded\n%s", *count, here, far_count,
               there, record);
    free(record);
    free(there);
    free(here);
    return same;
}

static bool wait_until_same(long *count)
{
    for (int i = 0; i < SAME_TURNS; i++) {
        if (are_same(count, i + 1 == SAME_TURNS) && *count > 0)
            return true;
        nap(100);
    }
    return false;
}

static bool starts_with(const char *text, const char *start)
{
    return strncmp(text, start, strlen(start)) == 0;
}

CASE(a_site_far_away_is_asked_and_told)
{
    char said[2000];
    begin("afar", "yes");
    CHECK(wait_log("the broker is there"));
    int code = -1;
    for (int i = 0; i < 5 && code != 0; i++)
        code = run_serve("far.ini", "--ask", "plot", "why drip", said,
                         sizeof(said));
    CHECK_INT(code, 0);
    harness_at("%s", said);
    /* of the moment: it is due, was given, comes in a second, or rests */
    CHECK(starts_with(said, "cress ") || starts_with(said, "drip "));
    CHECK_INT(
        run_serve("far.ini", "--tell", "plot", "drip off", said, sizeof(said)),
        0);
    CHECK_TEXT(said, "done\n");
    CHECK_INT(
        run_serve("far.ini", "--ask", "plot", "why drip", said, sizeof(said)),
        0);
    CHECK_TEXT(said, "drip is switched off, until auto or hand\n");
    /* whose words these were is among its events */
    CHECK_INT(
        run_serve("home.ini", "--tell", "plot", "drip up", said, sizeof(said)),
        1);
    CHECK(strstr(said, "plot: drip up: expected ") != NULL);
    CHECK_INT(run_serve("far.ini", "--tell", "plot", NULL, said, sizeof(said)),
              2);
    CHECK(strstr(said, "expected words after the site") != NULL);
    end_all();
}

CASE(where_no_words_are_taken_nobody_answers)
{
    char said[2000];
    begin("afar_no", "no");
    CHECK(wait_log("the broker is there"));
    CHECK_INT(
        run_serve("far.ini", "--tell", "plot", "drip off", said, sizeof(said)),
        3);
    CHECK(strstr(said, "plot: no answer") != NULL);
    end_all();
}

/* Somebody who may publish says so, once it has arrived. */
static int arrived_mid;

static void note_arrived(struct mosquitto *mqtt, void *self, int mid)
{
    (void)mqtt, (void)self;
    arrived_mid = mid;
}

static void shout(const char *topic, const char *text)
{
    int mid = 0;
    struct mosquitto *mqtt = mosquitto_new(NULL, true, NULL);
    mosquitto_publish_callback_set(mqtt, note_arrived);
    arrived_mid = 0;
    CHECK_INT(mosquitto_connect(mqtt, "127.0.0.1", port, 10), MOSQ_ERR_SUCCESS);
    CHECK_INT(
        mosquitto_publish(mqtt, &mid, topic, (int)strlen(text), text, 1, true),
        MOSQ_ERR_SUCCESS);
    for (int i = 0; i < 100 && arrived_mid != mid; i++)
        mosquitto_loop(mqtt, 100, 1);
    CHECK_INT(arrived_mid, mid);
    mosquitto_disconnect(mqtt);
    mosquitto_destroy(mqtt);
}

/* The first column of a row of a history; "" for none. */
static const char *one_of(const char *name, const char *query)
{
    static char text[400];
    sqlite3 *file;
    sqlite3_stmt *row = NULL;
    *text = '\0';
    if (sqlite3_open_v2(in_dir(name), &file, SQLITE_OPEN_READWRITE, NULL) ==
            SQLITE_OK &&
        sqlite3_prepare_v2(file, query, -1, &row, NULL) == SQLITE_OK &&
        sqlite3_step(row) == SQLITE_ROW)
        snprintf(text, sizeof(text), "%s",
                 (const char *)sqlite3_column_text(row, 0));
    sqlite3_finalize(row);
    sqlite3_close(file);
    return text;
}

static bool wait_for_one(const char *name, const char *query, const char *text)
{
    for (int i = 0; i < WAIT_MS / 200; i++) {
        if (strcmp(one_of(name, query), text) == 0)
            return true;
        nap(200);
    }
    printf("%s: %s: %s, not %s\n", name, query, one_of(name, query), text);
    return false;
}

#define FORGED                                                                 \
    "\"things\":[{\"name\":\"drip\",\"kind\":\"pump\"}],"                      \
    "\"run\":\"forged\",\"protocol\":1}"

/* Who may publish as one garden is that garden alone, whatever it says of
 * itself: not another, and none of this machine. */
CASE(who_speaks_as_one_garden_is_no_other)
{
    char text[900];
    char big[400000];
    begin("forged", "yes");
    CHECK(wait_log("the broker is there"));
    CHECK(wait_for_one("far.db", "SELECT name FROM sites WHERE id = 'plot'",
                       "Far plot"));
    /* home follows them all, too, and one of them has its own garden's name */
    CHECK_INT(finish(home, SIGTERM), 0);
    snprintf(text, sizeof(text),
             "[plot]\nis = site\nsocket = %s\n\n[history]\nfile = %s\n\n"
             "[coop]\nis = sites\nbroker = mqtt://127.0.0.1:%d\nbase = coop\n",
             bench_path("socket"), in_dir("home.db"), port);
    write_text("home.ini", text);
    start_home();
    shout("coop/plot/here", "yes 00000000000000000000000000000000");
    shout("coop/plot/site", "{\"id\":\"plot\",\"name\":\"forged\"," FORGED);
    /* another says that it is the plot */
    shout("coop/rogue/here", "yes 11111111111111111111111111111111");
    shout("coop/rogue/site", "{\"id\":\"plot\",\"name\":"
                             "\"rogue \\u001b[2J\\u202e\"," FORGED);
    shout("coop/rogue/events", "{\"number\":9223372036854775807,\"run\":"
                               "\"forged\",\"kind\":\"mode\",\"of\":\"drip\","
                               "\"reason\":\"off\",\"why\":\"last\"}");
    shout("coop/plot/again", "{\"since\":-9223372036854775807}");
    shout("coop/rogue/events",
          "{\"number\":1,\"run\":\"forged\",\"kind\":\"mode\",\"of\":"
          "\"drip\",\"reason\":\"off\",\"why\":\"two\\nlines\",\"by\":"
          "\"mara\"}");
    CHECK(wait_for_one("far.db", "SELECT name FROM sites WHERE id = 'rogue'",
                       "rogue ?[2J?"));
    CHECK(wait_for_one("home.db", "SELECT name FROM sites WHERE id = 'rogue'",
                       "rogue ?[2J?"));
    memset(big, ' ', sizeof(big) - 1);
    big[sizeof(big) - 1] = '\0';
    memcpy(big, "{\"id\":\"rogue\",\"name\":\"too big\"}", 31);
    shout("coop/rogue/site", big);
    CHECK_TEXT(one_of("home.db", "SELECT name FROM sites WHERE id = 'plot'"),
               "Far plot");
    CHECK_TEXT(one_of("home.db", "SELECT count(*) FROM sites"), "2");
    CHECK_TEXT(one_of("home.db", "SELECT count(*) FROM events WHERE site = "
                                 "(SELECT site FROM sites WHERE id = 'plot') "
                                 "AND by = 'mara'"),
               "0");
    end_all();
}

/* By its own socket, as soon as it is there again. */
static bool stop_garden(void)
{
    char socket[200];
    const char *const words[] = {CUPLATCH, "tell", "--socket", socket,
                                 "drip",   "off",  NULL};
    int status = -1;
    snprintf(socket, sizeof(socket), "%s", bench_path("socket"));
    for (int i = 0; i < WAIT_MS / 200 && status != 0; i++) {
        waitpid(start(words, "tell.log", 0), &status, 0);
        nap(200);
    }
    return status == 0;
}

/* One of them at random, by the hardest means, and again after a while. */
static void cut_one(void)
{
    int pause_ms = rand() % 3000;
    switch (rand() % 5) {
    case 0:
        finish(broker, rand() % 2 ? SIGKILL : SIGTERM);
        nap(pause_ms);
        start_broker();
        break;
    case 1:
        finish(home, SIGKILL);
        nap(pause_ms);
        start_home();
        break;
    case 2:
        finish(far, SIGKILL);
        nap(pause_ms);
        start_far();
        break;
    case 3: /* its guardian starts another */
        if (bench_worker(garden) > 0)
            kill(bench_worker(garden), SIGKILL);
        break;
    default:
        bench_end(garden, SIGTERM);
        nap(pause_ms);
        start_garden();
        break;
    }
}

CASE(what_is_told_here_is_known_there_whoever_is_killed)
{
    const char *text = getenv("CUPLATCH_SECONDS");
    const char *seed = getenv("CUPLATCH_SEED");
    time_t until = time(NULL) + (text ? atol(text) : 15);
    long count;
    int cuts = 0;
    srand(seed ? (unsigned)atoi(seed) : 77041);
    begin("cuts", "no");
    while (time(NULL) < until) {
        nap(500 + rand() % 4000);
        cut_one();
        cuts++;
    }
    /* from then on nothing more happens */
    CHECK(stop_garden());
    CHECK(wait_until_same(&count));
    CHECK_INT(bench_end(garden, SIGTERM), 0);
    printf("%d cuts, %ld events, the same ones recorded, here and there\n",
           cuts, count);
    CHECK(count > 5);
    harness_at(NULL);
    CHECK_INT(finish(far, SIGTERM), 0);
    CHECK_INT(finish(home, SIGTERM), 0);
    finish(broker, SIGTERM);
    bench_remove();
    folder_end();
}
