#include "say_once.h"

#include <jansson.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

#include "../broker/identity.h"
#include "../broker/topics.h"
#include "../common/clean.h"

/* What is under way: said once the line is there, and over with the answer. */
struct once {
    const struct mqtt_config *at;
    const char *site;
    const char *const *words;
    const char *text;
    char id[IDENTITY_SIZE];
    char answers[MQTT_TOPIC_SIZE];
    int refused; /* a reason of the broker; 0: none */
    bool ready;
    json_t *answer;
};

static void connected(struct mosquitto *mqtt, void *self, int why)
{
    struct once *once = self;
    once->refused = why;
    if (why == 0)
        mosquitto_subscribe(mqtt, NULL, once->answers, 1);
}

/* Whoever answers is heard from now on. */
static void subscribed(struct mosquitto *mqtt, void *self, int mid, int count,
                       const int *granted)
{
    struct once *once = self;
    char topic[MQTT_TOPIC_SIZE];
    (void)mid, (void)count, (void)granted;
    if (once->ready)
        return;
    once->ready = true;
    mqtt_topic(once->at, once->site, topic_below(TOPIC_WORDS), topic);
    mqtt_say(mqtt, topic, once->text, once->answers);
}

static void said(struct mosquitto *mqtt, void *self,
                 const struct mosquitto_message *message)
{
    struct once *once = self;
    json_t *answer = clean_read(message->payload, (size_t)message->payloadlen);
    const char *id = json_string_value(json_object_get(answer, "id"));
    (void)mqtt;
    if (!once->answer && id && strcmp(id, once->id) == 0)
        once->answer = json_incref(answer);
    json_decref(answer);
}

static char *text_of(const struct once *once, const char *kind,
                     const char *const *words)
{
    const char *user = getenv("USER");
    json_t *list = json_array();
    for (size_t i = 0; words[i]; i++)
        json_array_append_new(list, json_string(words[i]));
    json_t *body = json_pack("{s:s, s:I, s:s, s:o}", "id", once->id, "t",
                             (json_int_t)time(NULL), "by",
                             user ? user : "somebody", kind, list);
    char *text = json_dumps(body, JSON_COMPACT);
    if (!text)
        abort();
    json_decref(body);
    return text;
}

/* Until it is over, one way or another. */
static bool go(struct once *once, bool old, char *wrong, size_t size)
{
    const struct mqtt_config *at = once->at;
    int64_t until = (int64_t)time(NULL) + ONCE_ANSWER_S;
    struct mosquitto *mqtt = mosquitto_new(NULL, true, once);
    if (!mqtt)
        abort();
    mosquitto_connect_callback_set(mqtt, connected);
    mosquitto_subscribe_callback_set(mqtt, subscribed);
    mosquitto_message_callback_set(mqtt, said);
    bool done = mqtt_prepare(mqtt, at, old, wrong, size) &&
                mqtt_connect(mqtt, at, wrong, size);
    while (done && !once->answer && !once->refused && time(NULL) < until)
        done = mosquitto_loop(mqtt, 200, 1) == MOSQ_ERR_SUCCESS;
    if (!done && !*wrong)
        mqtt_why(wrong, size, "the broker hung up");
    mosquitto_disconnect(mqtt);
    mosquitto_destroy(mqtt);
    return once->answer != NULL;
}

/* Which of them it was; null: none. */
static const char *wrong_word(const char *const *words, const json_t *answer)
{
    const json_t *place = json_object_get(answer, "word");
    json_int_t at = 0;
    while (place && words[at] && at < json_integer_value(place))
        at++;
    return place ? words[at] : NULL;
}

static enum once_end tell(const struct once *once)
{
    size_t i;
    json_t *answer;
    const json_t *json = once->answer;
    const char *error = json_string_value(json_object_get(json, "error"));
    const char *word = wrong_word(once->words, json);
    json_array_foreach(json_object_get(json, "answers"), i, answer)
    {
        puts(json_string_value(answer) ? json_string_value(answer) : "");
    }
    if (json_is_true(json_object_get(json, "done")))
        return ONCE_DONE;
    fprintf(stderr, "cuplatch-serve: %s: %s%s%s\n", once->site,
            word ? word : "", word ? ": " : "", error ? error : "refused");
    return ONCE_REFUSED;
}

enum once_end say_once(const struct mqtt_config *at, const char *site,
                       const char *kind, const char *const *words)
{
    char wrong[200] = "";
    char below[TOPIC_ANSWERS_SIZE];
    struct once once = {.at = at, .site = site, .words = words};
    mosquitto_lib_init();
    identity_draw(once.id);
    topic_answers(once.id, below);
    mqtt_topic(at, site, below, once.answers);
    char *text = text_of(&once, kind, words);
    once.text = text;
    bool heard = go(&once, false, wrong, sizeof(wrong));
    if (!heard && mqtt_is_old(once.refused)) {
        mqtt_topic(at, site, topic_below(TOPIC_ANSWERS), once.answers);
        heard = go(&once, true, wrong, sizeof(wrong));
    }
    enum once_end end = heard ? tell(&once) : ONCE_SILENT;
    if (!heard && *wrong)
        fprintf(stderr, "cuplatch-serve: %s:%d: %s\n", at->host, at->port,
                wrong);
    else if (!heard && once.refused)
        fprintf(stderr, "cuplatch-serve: %s:%d refuses: %s\n", at->host,
                at->port, mosquitto_connack_string(once.refused));
    else if (!heard)
        fprintf(stderr,
                "cuplatch-serve: %s: no answer; is it there, and does its "
                "[broker] say words = yes?\n",
                site);
    json_decref(once.answer);
    free(text);
    mosquitto_lib_cleanup();
    return end;
}
