#include "requests.h"

#include <mqtt_protocol.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

struct request *requests_next(struct requests *requests, enum request_is is)
{
    for (size_t i = 0; i < REQUESTS_MOST; i++)
        if (requests->list[i].is == is)
            return &requests->list[i];
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

static void take_return(struct request *request, const char *answers,
                        const mosquitto_property *properties)
{
    char *topic = NULL;
    void *mark = NULL;
    uint16_t size = 0;
    mosquitto_property_read_string(properties, MQTT_PROP_RESPONSE_TOPIC, &topic,
                                   false);
    mosquitto_property_read_binary(properties, MQTT_PROP_CORRELATION_DATA,
                                   &mark, &size, false);
    snprintf(request->to, sizeof(request->to), "%s",
             topic && is_below(topic, answers) ? topic : answers);
    if (mark && size <= REQUESTS_MARK_MOST) {
        memcpy(request->mark, mark, size);
        request->mark_size = size;
    }
    free(topic);
    free(mark);
}

bool requests_take(struct requests *requests, void *of, const char *answers,
                   const struct mosquitto_message *message,
                   const mosquitto_property *properties)
{
    struct request *request = requests_next(requests, REQUEST_FREE);
    if (!request || message->payloadlen > REQUESTS_TEXT_MOST)
        return false;
    *request = (struct request){.is = REQUEST_CAME, .of = of};
    request->body = json_loadb(message->payload, (size_t)message->payloadlen,
                               JSON_REJECT_DUPLICATES, NULL);
    take_return(request, answers, properties);
    return true;
}

void request_send(struct request *request, struct mosquitto *mqtt)
{
    mosquitto_property *properties = NULL;
    char *text =
        request->answer ? json_dumps(request->answer, JSON_COMPACT) : NULL;
    if (text && request->mark_size > 0)
        mosquitto_property_add_binary(&properties, MQTT_PROP_CORRELATION_DATA,
                                      request->mark,
                                      (uint16_t)request->mark_size);
    if (text)
        mosquitto_publish_v5(mqtt, NULL, request->to, (int)strlen(text), text,
                             1, false, properties);
    mosquitto_property_free_all(&properties);
    free(text);
    request_free(request);
}

void request_free(struct request *request)
{
    json_decref(request->body);
    json_decref(request->answer);
    *request = (struct request){.is = REQUEST_FREE};
}
