#include "listener.h"

#include <signal.h>
#include <stdio.h>
#include <string.h>
#include <unistd.h>

#include "../harness/harness.h"
#include "programs.h"

int port;
pid_t broker, garden, serve;

/* Keeps sessions and what is retained over restarts. */
pid_t start_broker(void)
{
    const char *const words[] = {find_program("mosquitto"), "-c",
                                 in_dir("broker.conf"), NULL};
    return start(words, "broker.log", 0);
}

pid_t start_garden(void)
{
    return start_garden_of(GARDEN "/keeper.ini", "6000");
}

/* Whoever else listens: a session that the broker keeps. */

struct listener ear = {.lock = PTHREAD_MUTEX_INITIALIZER};

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

void listen_in(const char *user, const char *password)
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

void stop_listening(void)
{
    mosquitto_disconnect(ear.mqtt);
    mosquitto_loop_stop(ear.mqtt, true);
    mosquitto_destroy(ear.mqtt);
    json_decref(ear.retained);
}

bool has(const char *topic, const char *text)
{
    pthread_mutex_lock(&ear.lock);
    const char *is = json_string_value(json_object_get(ear.retained, topic));
    bool there = is && strstr(is, text);
    pthread_mutex_unlock(&ear.lock);
    return there;
}

bool wait_for(const char *topic, const char *text)
{
    for (int i = 0; i < WAIT_MS / 20; i++) {
        if (has(topic, text))
            return true;
        nap(20);
    }
    return false;
}

void begin(const char *name, const char *more, const char *conf)
{
    folder_begin(name);
    port = free_port();
    FILE *out = fopen(in_dir("broker.conf"), "w");
    fprintf(out,
            "listener %d 127.0.0.1\npersistence true\npersistence_location "
            "%s/\nqueue_qos0_messages false\nmax_queued_messages 0\nuser root\n"
            "%s\n",
            port, dir, conf);
    fclose(out);
    out = fopen(in_dir("serve.ini"), "w");
    fprintf(out,
            "[garden]\nis = site\nsocket = %s\n\n[history]\nfile = %s\n\n"
            "[broker]\nurl = mqtt://127.0.0.1:%d\nbase = yard\n%s",
            in_dir("socket"), in_dir("history.db"), port, more);
    fclose(out);
}

void start_all(void)
{
    broker = start_broker();
    garden = start_garden();
    serve = start_serve(0);
    listen_in(NULL, NULL);
}

/* Each ends as it should. */
void end_all(void)
{
    CHECK_INT(finish(serve, SIGTERM), 0);
    CHECK_INT(finish(garden, SIGTERM), 0);
    stop_listening();
    finish(broker, SIGTERM);
    folder_end();
}
