/* cuplatch-serve and a real broker: what a controller says is there, retained
 * or in order, whatever becomes of the broker, the network and the program. */
#include <jansson.h>
#include <mosquitto.h>
#include <pthread.h>
#include <signal.h>
#include <sqlite3.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

#include "../../ports/common/wall.h"
#include "../harness/harness.h"
#include "programs.h"

static int port;

/* Keeps sessions and what is retained over restarts. */
static pid_t start_broker(void)
{
    const char *const words[] = {MOSQUITTO, "-c", in_dir("broker.conf"), NULL};
    return start(words, "broker.log", 0);
}

static pid_t start_garden(void)
{
    return start_garden_of(GARDEN "/keeper.ini", "6000");
}

/* Whoever else listens: a session that the broker keeps. */

static struct {
    pthread_mutex_t lock;
    struct mosquitto *mqtt;
    json_t *retained; /* the last text of each topic */
    long events, again, odd;
    json_int_t last;
} ear = {.lock = PTHREAD_MUTEX_INITIALIZER};

static void connected(struct mosquitto *mqtt, void *self, int why)
{
    (void)self;
    if (why == 0)
        mosquitto_subscribe(mqtt, NULL, "yard/#", 1);
}

/* Numbers go up; one that comes again was on its way when something broke. */
static void take_event(const char *text, size_t length)
{
    json_t *event = json_loadb(text, length, 0, NULL);
    json_int_t number = json_integer_value(json_object_get(event, "number"));
    json_decref(event);
    if (number == ear.last + 1)
        ear.events++;
    else if (number <= ear.last && number >= 0)
        ear.again++;
    else
        ear.odd++;
    ear.last = number > ear.last ? number : ear.last;
}

static void said(struct mosquitto *mqtt, void *self,
                 const struct mosquitto_message *message)
{
    (void)mqtt, (void)self;
    size_t length = (size_t)message->payloadlen;
    pthread_mutex_lock(&ear.lock);
    if (strcmp(message->topic, "yard/keeper/events") == 0)
        take_event(message->payload, length);
    else
        json_object_set_new(
            ear.retained, message->topic,
            json_stringn(length ? message->payload : "", length));
    pthread_mutex_unlock(&ear.lock);
}

static void listen_in(const char *user, const char *password)
{
    mosquitto_lib_init();
    ear.retained = json_object();
    ear.events = ear.again = ear.odd = 0;
    ear.last = -1;
    ear.mqtt = mosquitto_new("listener", false, NULL);
    mosquitto_connect_callback_set(ear.mqtt, connected);
    mosquitto_message_callback_set(ear.mqtt, said);
    mosquitto_reconnect_delay_set(ear.mqtt, 1, 1, false);
    if (user)
        mosquitto_username_pw_set(ear.mqtt, user, password);
    for (int i = 0; i < 200 && mosquitto_connect(ear.mqtt, "127.0.0.1", port,
                                                 20) != MOSQ_ERR_SUCCESS;
         i++)
        nap(50);
    mosquitto_loop_start(ear.mqtt);
}

static void stop_listening(void)
{
    mosquitto_disconnect(ear.mqtt);
    mosquitto_loop_stop(ear.mqtt, true);
    mosquitto_destroy(ear.mqtt);
    json_decref(ear.retained);
}

/* Events that the history has. */
static long count_events(void)
{
    sqlite3 *file;
    sqlite3_stmt *row;
    long count = 0;
    if (sqlite3_open(in_dir("history.db"), &file) == SQLITE_OK &&
        sqlite3_prepare_v2(file, "SELECT count(*) FROM events", -1, &row,
                           NULL) == SQLITE_OK) {
        if (sqlite3_step(row) == SQLITE_ROW)
            count = (long)sqlite3_column_int64(row, 0);
        sqlite3_finalize(row);
    }
    sqlite3_close(file);
    return count;
}

static bool has(const char *topic, const char *text)
{
    pthread_mutex_lock(&ear.lock);
    const char *is = json_string_value(json_object_get(ear.retained, topic));
    bool there = is && strstr(is, text);
    pthread_mutex_unlock(&ear.lock);
    return there;
}

static bool wait_for(const char *topic, const char *text)
{
    for (int i = 0; i < WAIT_MS / 20; i++) {
        if (has(topic, text))
            return true;
        nap(20);
    }
    return false;
}

static void begin(const char *name, const char *more, const char *broker)
{
    folder_begin(name);
    port = free_port();
    FILE *out = fopen(in_dir("broker.conf"), "w");
    fprintf(out,
            "listener %d 127.0.0.1\npersistence true\npersistence_location "
            "%s/\nqueue_qos0_messages false\nmax_queued_messages 0\nuser root\n"
            "%s\n",
            port, dir, broker);
    fclose(out);
    out = fopen(in_dir("serve.ini"), "w");
    fprintf(out,
            "[garden]\nis = site\nsocket = %s\n\n[history]\nfile = %s\n\n"
            "[broker]\nurl = mqtt://127.0.0.1:%d\nbase = yard\n%s",
            in_dir("socket"), in_dir("history.db"), port, more);
    fclose(out);
}

/* Each ends as it should. */
static void end_all(pid_t serve, pid_t garden, pid_t broker)
{
    CHECK_INT(finish(serve, SIGTERM), 0);
    CHECK_INT(finish(garden, SIGTERM), 0);
    stop_listening();
    finish(broker, SIGTERM);
    folder_end();
}

CASE(what_a_controller_says_is_there_for_whoever_listens)
{
    begin("here", "", "allow_anonymous true");
    pid_t broker = start_broker();
    pid_t garden = start_garden();
    pid_t serve = start_serve(0);
    listen_in(NULL, NULL);
    CHECK(wait_for("yard/keeper/here", "yes "));
    CHECK(wait_for("yard/keeper/site", "\"Keeper's Garden\""));
    CHECK(wait_for("yard/keeper/levels/header", "\"litres\""));
    CHECK(wait_for("yard/keeper/outputs/lift", "\"switch\":\"auto\""));
    CHECK(wait_for("yard/keeper/outputs/lift", "\"out\":"));
    CHECK(wait_for("yard/keeper/standing", "["));
    /* killed, its last will says so; and it is itself again */
    CHECK_INT(finish(serve, SIGKILL), -SIGKILL);
    CHECK(wait_for("yard/keeper/here", "no"));
    serve = start_serve(0);
    CHECK(wait_for("yard/keeper/here", "yes "));
    /* a controller that goes is not here, either */
    CHECK_INT(finish(garden, SIGTERM), 0);
    CHECK(wait_for("yard/keeper/here", "no"));
    CHECK_INT(finish(serve, SIGTERM), 0);
    stop_listening();
    finish(broker, SIGTERM);
    folder_end();
}

CASE(every_event_arrives_in_order_whatever_breaks)
{
    begin("events", "", "allow_anonymous true");
    pid_t broker = start_broker();
    listen_in(NULL, NULL);
    nap(500);
    pid_t garden = start_garden();
    pid_t serve = start_serve(0);
    CHECK(wait_log("broker garden: is there"));
    for (int i = 0; i < 3; i++) {
        nap(1500);
        finish(broker, SIGTERM); /* it keeps its sessions */
        nap(1500);
        broker = start_broker();
        nap(2500);
        CHECK_INT(finish(serve, SIGKILL), -SIGKILL);
        serve = start_serve(0);
    }
    CHECK(wait_log("broker garden: is there"));
    nap(1500);
    CHECK_INT(finish(garden, SIGTERM), 0);
    CHECK(wait_log("went away; trying again"));
    long recorded = count_lines("record/events.jsonl");
    for (int i = 0; i < WAIT_MS / 50 && ear.last + 1 < recorded; i++)
        nap(50);
    nap(500);
    CHECK_INT(finish(serve, SIGTERM), 0);
    CHECK_INT(ear.odd, 0);
    /* of its last moment nobody could hear */
    CHECK(ear.events > 50 && ear.events >= recorded - 20);
    CHECK_INT(ear.events, ear.last + 1);
    stop_listening();
    finish(broker, SIGTERM);
    folder_end();
}

CASE(somebody_else_of_the_same_name_is_not_spoken_over)
{
    begin("clash", "", "allow_anonymous true");
    pid_t broker = start_broker();
    listen_in(NULL, NULL);
    nap(300);
    mosquitto_publish(ear.mqtt, NULL, "yard/keeper/here", 9, "yes other", 1,
                      true);
    CHECK(wait_for("yard/keeper/here", "yes other"));
    pid_t garden = start_garden();
    pid_t serve = start_serve(0);
    CHECK(wait_log("somebody else is keeper there already"));
    nap(1500);
    CHECK(has("yard/keeper/here", "yes other"));
    CHECK(!has("yard/keeper/site", ""));
    CHECK_INT(finish(serve, SIGTERM), 0);
    CHECK(has("yard/keeper/here", "yes other"));
    CHECK_INT(finish(garden, SIGTERM), 0);
    stop_listening();
    finish(broker, SIGTERM);
    folder_end();
}

CASE(names_that_are_gone_are_cleared)
{
    begin("gone", "", "allow_anonymous true");
    pid_t broker = start_broker();
    listen_in(NULL, NULL);
    nap(300);
    mosquitto_publish(ear.mqtt, NULL, "yard/keeper/levels/old_tank", 2, "{}", 1,
                      true);
    CHECK(wait_for("yard/keeper/levels/old_tank", "{}"));
    pid_t garden = start_garden();
    pid_t serve = start_serve(0);
    CHECK(wait_for("yard/keeper/levels/header", "value"));
    for (int i = 0; i < 100 && has("yard/keeper/levels/old_tank", "{}"); i++)
        nap(50);
    CHECK(!has("yard/keeper/levels/old_tank", "{}"));
    end_all(serve, garden, broker);
}

CASE(a_password_that_was_changed_is_read_again)
{
    char more[400];
    char conf[300];
    char command[300];
    folder_begin("pass");
    snprintf(more, sizeof(more), "user = serve\npassword_file = %s/secret\n",
             dir);
    snprintf(conf, sizeof(conf),
             "allow_anonymous false\npassword_file %s/passwords", dir);
    begin("pass", more, conf);
    write_text("passwords", "serve:right\nlistener:ear\n");
    snprintf(command, sizeof(command), "mosquitto_passwd -U %s/passwords", dir);
    CHECK_INT(system(command), 0);
    write_text("secret", "wrong\n");
    pid_t broker = start_broker();
    pid_t garden = start_garden();
    pid_t serve = start_serve(0);
    CHECK(wait_log("broker garden: refused"));
    write_text("secret", "right\n");
    CHECK(wait_log("broker garden: is there"));
    listen_in("listener", "ear");
    CHECK(wait_for("yard/keeper/site", "Keeper"));
    end_all(serve, garden, broker);
}

/* The file again, with another way to the broker. */
static void write_serve(const char *url, const char *more)
{
    FILE *out = fopen(in_dir("serve.ini"), "w");
    fprintf(out,
            "[garden]\nis = site\nsocket = %s\n\n[history]\nfile = %s\n\n"
            "[broker]\nurl = %s:%d\nbase = yard\n%s",
            in_dir("socket"), in_dir("history.db"), url, port, more);
    fclose(out);
}

CASE(by_tls_nobody_is_trusted_but_who_is_named)
{
    char command[900];
    char conf[400];
    char trust[300];
    folder_begin("tls");
    snprintf(command, sizeof(command),
             "openssl req -x509 -newkey rsa:2048 -nodes -days 2 -subj "
             "/CN=localhost -addext subjectAltName=DNS:localhost -keyout "
             "%s/key.pem -out %s/cert.pem 2>/dev/null",
             dir, dir);
    CHECK_INT(system(command), 0);
    snprintf(conf, sizeof(conf),
             "allow_anonymous true\ncertfile %s/cert.pem\nkeyfile %s/key.pem",
             dir, dir);
    begin("tls", "", conf);
    snprintf(trust, sizeof(trust), "authority = %s/cert.pem\n", dir);
    write_serve("mqtts://localhost", "");
    pid_t broker = start_broker();
    pid_t garden = start_garden();
    pid_t serve = start_serve(0);
    nap(4000);
    CHECK(!log_has("broker garden: is there"));
    CHECK(log_has("broker garden: "));
    CHECK_INT(finish(serve, SIGTERM), 0);
    write_serve("mqtts://localhost", trust);
    serve = start_serve(0);
    CHECK(wait_log("broker garden: is there"));
    CHECK_INT(finish(serve, SIGTERM), 0);
    CHECK_INT(finish(garden, SIGTERM), 0);
    finish(broker, SIGTERM);
    folder_end();
}

/* One that stands still: nobody waits for it, and nothing is lost. */
CASE(a_broker_that_stands_still_holds_up_nobody)
{
    begin("still", "", "allow_anonymous true");
    pid_t broker = start_broker();
    listen_in(NULL, NULL);
    nap(300);
    pid_t garden = start_garden();
    pid_t serve = start_serve(0);
    CHECK(wait_log("broker garden: is there"));
    nap(1000);
    kill(broker, SIGSTOP);
    nap(1000);
    long before = count_events();
    nap(6000);
    CHECK(count_events() > before);
    kill(broker, SIGCONT);
    CHECK_INT(finish(garden, SIGTERM), 0);
    CHECK(wait_log("went away; trying again"));
    for (int i = 0; i < WAIT_MS / 50 && ear.last + 1 < count_events(); i++)
        nap(50);
    CHECK_INT(ear.last + 1, count_events());
    CHECK_INT(ear.odd, 0);
    CHECK_INT(finish(serve, SIGTERM), 0);
    stop_listening();
    finish(broker, SIGTERM);
    folder_end();
}

/* Words */

/* Says something to the site, so many seconds ago. */
static void tell(const char *id, int ago_s, const char *kind, const char *word,
                 bool retained)
{
    char text[300];
    snprintf(text, sizeof(text), "{\"id\":\"%s\",\"t\":%lld,\"%s\":[\"%s\"]}",
             id, (long long)time(NULL) - ago_s, kind, word);
    mosquitto_publish(ear.mqtt, NULL, "yard/keeper/words", (int)strlen(text),
                      text, 1, retained);
}

static const char answers[] = "yard/keeper/answers";
static const char lift[] = "yard/keeper/outputs/lift";

/* The answer to an id. */
static bool answered(const char *id, const char *text)
{
    char named[80];
    snprintf(named, sizeof(named), "\"id\":\"%s\"", id);
    return CHECK(wait_for(answers, named)) && CHECK(has(answers, text));
}

CASE(words_from_a_broker_go_through_the_checks_of_the_console)
{
    begin("words", "words = yes\n", "allow_anonymous true");
    pid_t broker = start_broker();
    pid_t garden = start_garden();
    pid_t serve = start_serve(0);
    listen_in(NULL, NULL);
    CHECK(wait_for(lift, "\"switch\":\"auto\""));
    tell("a1", 0, "tell", "lift off", false);
    answered("a1", "\"done\":true");
    CHECK(wait_for(lift, "\"switch\":\"off\""));
    tell("a2", 0, "tell", "lift sideways", false);
    answered("a2", "\"error\":\"expected ");
    tell("a3", 0, "ask", "why lift", false);
    answered("a3", "lift is switched off, until auto or hand");
    /* too late, from the time to come, again */
    tell("a4", 300, "tell", "lift auto", false);
    answered("a4", "too long ago");
    tell("a5", -300, "tell", "lift auto", false);
    answered("a5", "too long ago, or by another clock");
    tell("a1", 0, "tell", "lift auto", false);
    answered("a1", "said already");
    CHECK(has(lift, "\"switch\":\"off\""));
    tell("a6", 0, "tell", "lift auto", false);
    answered("a6", "\"done\":true");
    CHECK(wait_for(lift, "\"switch\":\"auto\""));
    /* who says it is not believed to be a text that is well made */
    static const char odd[] =
        "{\"id\":\"a7\",\"ask\":[\"levels\"],\"by\":"
        "\"somebody whose name is cut here\xc3\xa4\xc3\xa4\"}";
    mosquitto_publish(ear.mqtt, NULL, "yard/keeper/words", (int)strlen(odd),
                      odd, 1, false);
    answered("a7", "\"done\":true");
    /* what only stops always does */
    tell("a6", 9999, "tell", "lift off", false);
    CHECK(wait_for(lift, "\"switch\":\"off\""));
    end_all(serve, garden, broker);
}

CASE(a_word_that_was_taken_is_known_after_a_start_and_a_retained_one_is_nobodys)
{
    begin("known", "words = yes\n", "allow_anonymous true");
    pid_t broker = start_broker();
    pid_t garden = start_garden();
    pid_t serve = start_serve(0);
    listen_in(NULL, NULL);
    CHECK(wait_for(lift, "\"switch\":\"auto\""));
    tell("b0", 0, "tell", "lift off", false);
    answered("b0", "\"done\":true");
    tell("b1", 0, "tell", "lift auto", false);
    answered("b1", "\"done\":true");
    tell("b2", 0, "tell", "lift off", false);
    answered("b2", "\"done\":true");
    CHECK_INT(finish(serve, SIGKILL), -SIGKILL);
    CHECK(wait_for("yard/keeper/here", "no"));
    /* it waits there for whoever comes */
    tell("b3", 0, "tell", "lift auto", true);
    serve = start_serve(0);
    CHECK(wait_for("yard/keeper/here", "yes"));
    tell("b1", 0, "tell", "lift auto", false);
    answered("b1", "said already");
    tell("b4", 0, "tell", "lift auto", true);
    CHECK(wait_log("retained words are nobody's"));
    mosquitto_publish(ear.mqtt, NULL, "yard/keeper/words", 7, "{\"id\": ", 1,
                      false);
    CHECK(wait_for(answers, "expected one JSON object"));
    CHECK(has(lift, "\"switch\":\"off\""));
    end_all(serve, garden, broker);
}

CASE(where_the_file_takes_no_words_a_stranger_moves_nothing)
{
    begin("no_words", "", "allow_anonymous true");
    pid_t broker = start_broker();
    pid_t garden = start_garden();
    pid_t serve = start_serve(0);
    listen_in(NULL, NULL);
    CHECK(wait_for(lift, "\"switch\":\"auto\""));
    tell("c1", 0, "tell", "lift off", false);
    tell("c2", 0, "ask", "levels", false);
    nap(2000);
    CHECK(has(lift, "\"switch\":\"auto\""));
    CHECK(!has(answers, ""));
    end_all(serve, garden, broker);
}

CASE(while_the_clock_is_nobodys_only_words_that_stop_are_taken)
{
    bool right = wall_is_right();
    begin("clock", "words = yes\n", "allow_anonymous true");
    pid_t broker = start_broker();
    pid_t garden = start_garden();
    const char *const words[] = {SERVE, in_dir("serve.ini"), NULL};
    pid_t serve = start(words, "serve.log", 0);
    listen_in(NULL, NULL);
    CHECK(wait_for(lift, "\"switch\":\"auto\""));
    tell("d1", 0, "tell", "lift hand 1m", false);
    answered("d1", right ? "\"done\":" : "clock is not set by the world's");
    tell("d2", 0, "tell", "lift off", false);
    answered("d2", "\"done\":true");
    end_all(serve, garden, broker);
}

CASE(a_broker_that_is_not_there_is_told_of_and_waited_for)
{
    begin("absent", "", "allow_anonymous true");
    pid_t garden = start_garden();
    pid_t serve = start_serve(0);
    CHECK(wait_log("Connection refused; trying again"));
    pid_t broker = start_broker();
    CHECK(wait_log("broker garden: is there"));
    CHECK_INT(finish(serve, SIGTERM), 0);
    CHECK_INT(finish(garden, SIGTERM), 0);
    finish(broker, SIGTERM);
    folder_end();
}
