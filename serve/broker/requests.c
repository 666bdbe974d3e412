#include "requests.h"

#include <mqtt_protocol.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

struct letter *letters_next(struct letters *letters, enum letter_is is)
{
    for (size_t i = 0; i < LETTERS_MOST; i++)
        if (letters->list[i].is == is)
            return &letters->list[i];
    return NULL;
}

/* "…/answers" or "…/answers/WHOSE". */
static bool is_below(const char *topic, const char *answers)
{
    size_t length = strlen(answers);
    return strncmp(topic, answers, length) == 0 &&
           (topic[length] == '\0' || topic[length] == '/') &&
           !strpbrk(topic, "+#") && strlen(topic) < MQTT_TOPIC_SIZE;
}

static void take_return(struct letter *letter, const char *answers,
                        const mosquitto_property *properties)
{
    char *topic = NULL;
    void *mark = NULL;
    uint16_t size = 0;
    mosquitto_property_read_string(properties, MQTT_PROP_RESPONSE_TOPIC, &topic,
                                   false);
    mosquitto_property_read_binary(properties, MQTT_PROP_CORRELATION_DATA,
                                   &mark, &size, false);
    snprintf(letter->to, sizeof(letter->to), "%s",
             topic && is_below(topic, answers) ? topic : answers);
    if (mark && size <= LETTERS_MARK_MOST) {
        memcpy(letter->mark, mark, size);
        letter->mark_size = size;
    }
    free(topic);
    free(mark);
}

bool letters_take(struct letters *letters, void *of, const char *answers,
                  const struct mosquitto_message *message,
                  const mosquitto_property *properties)
{
    struct letter *letter = letters_next(letters, LETTER_FREE);
    if (!letter || message->payloadlen > LETTERS_TEXT_MOST)
        return false;
    *letter = (struct letter){.is = LETTER_CAME, .of = of};
    letter->body = json_loadb(message->payload, (size_t)message->payloadlen,
                              JSON_REJECT_DUPLICATES, NULL);
    take_return(letter, answers, properties);
    return true;
}

void letter_send(struct letter *letter, struct mosquitto *mqtt)
{
    mosquitto_property *properties = NULL;
    char *text =
        letter->answer ? json_dumps(letter->answer, JSON_COMPACT) : NULL;
    if (text && letter->mark_size > 0)
        mosquitto_property_add_binary(&properties, MQTT_PROP_CORRELATION_DATA,
                                      letter->mark,
                                      (uint16_t)letter->mark_size);
    if (text)
        mosquitto_publish_v5(mqtt, NULL, letter->to, (int)strlen(text), text, 1,
                             false, properties);
    mosquitto_property_free_all(&properties);
    free(text);
    letter_free(letter);
}

void letter_free(struct letter *letter)
{
    json_decref(letter->body);
    json_decref(letter->answer);
    *letter = (struct letter){.is = LETTER_FREE};
}
