#include "mqtt.h"

#include <errno.h>
#include <mqtt_protocol.h>
#include <pthread.h>
#include <stdio.h>
#include <string.h>

static bool say_code(int code, char *wrong, size_t size)
{
    if (code != MOSQ_ERR_SUCCESS)
        snprintf(wrong, size, "%s",
                 code == MOSQ_ERR_ERRNO ? strerror(errno)
                                        : mosquitto_strerror(code));
    return code == MOSQ_ERR_SUCCESS;
}

/* What went wrong, as the library told it last. */
static struct {
    pthread_mutex_t lock;
    char text[200];
} told = {.lock = PTHREAD_MUTEX_INITIALIZER};

/* "OpenSSL Error[0]: error:0A000086:SSL routines::certificate verify failed":
 * what people can read is at the end. */
static void take_log(struct mosquitto *mqtt, void *self, int level,
                     const char *text)
{
    const char *end = strrchr(text, ':');
    (void)mqtt, (void)self;
    if (level != MOSQ_LOG_ERR)
        return;
    pthread_mutex_lock(&told.lock);
    snprintf(told.text, sizeof(told.text), "%s",
             end && end[1] ? end + 1 : text);
    pthread_mutex_unlock(&told.lock);
}

static void listen_for_errors(struct mosquitto *mqtt)
{
    pthread_mutex_lock(&told.lock);
    told.text[0] = '\0';
    pthread_mutex_unlock(&told.lock);
    mosquitto_log_callback_set(mqtt, take_log);
}

void mqtt_why(char *why, size_t size, const char *otherwise)
{
    pthread_mutex_lock(&told.lock);
    snprintf(why, size, "%s", *told.text ? told.text : otherwise);
    pthread_mutex_unlock(&told.lock);
}

static bool read_password(const char *path, char *line, int size)
{
    FILE *in = fopen(path, "re");
    bool read = in && fgets(line, size, in);
    if (in)
        fclose(in);
    if (read)
        line[strcspn(line, "\r\n")] = '\0';
    return read;
}

static bool set_user(struct mosquitto *mqtt, const struct mqtt_config *config,
                     char *wrong, size_t size)
{
    char password[300] = "";
    const char *path = config->password_file;
    if (!config->user)
        return true;
    errno = 0;
    if (path && !read_password(path, password, (int)sizeof(password))) {
        snprintf(wrong, size, "%s: %s", path,
                 errno ? strerror(errno) : "is empty");
        return false;
    }
    int code =
        mosquitto_username_pw_set(mqtt, config->user, path ? password : NULL);
    explicit_bzero(password, sizeof(password));
    return say_code(code, wrong, size);
}

static bool set_tls(struct mosquitto *mqtt, const struct mqtt_config *config,
                    char *wrong, size_t size)
{
    const char *machine = config->authority ? NULL : "/etc/ssl/certs";
    return !config->tls ||
           say_code(mosquitto_tls_set(mqtt, config->authority, machine, NULL,
                                      NULL, NULL),
                    wrong, size);
}

bool mqtt_prepare(struct mosquitto *mqtt, const struct mqtt_config *config,
                  bool old, char *wrong, size_t size)
{
    listen_for_errors(mqtt);
    mosquitto_int_option(mqtt, MOSQ_OPT_PROTOCOL_VERSION,
                         old ? MQTT_PROTOCOL_V311 : MQTT_PROTOCOL_V5);
    return set_user(mqtt, config, wrong, size) &&
           set_tls(mqtt, config, wrong, size);
}

bool mqtt_begin(struct mosquitto *mqtt, const struct mqtt_config *config,
                char *wrong, size_t size)
{
    char text[200];
    int code = mosquitto_connect_async(mqtt, config->host, config->port,
                                       MQTT_KEEPALIVE_S);
    if (code == MOSQ_ERR_SUCCESS)
        code = mosquitto_loop_start(mqtt);
    if (say_code(code, text, sizeof(text)))
        return true;
    mqtt_why(wrong, size, text);
    return false;
}

bool mqtt_connect(struct mosquitto *mqtt, const struct mqtt_config *config,
                  char *wrong, size_t size)
{
    char code[200];
    if (say_code(mosquitto_connect(mqtt, config->host, config->port,
                                   MQTT_KEEPALIVE_S),
                 code, sizeof(code)))
        return true;
    mqtt_why(wrong, size, code);
    return false;
}

void mqtt_say(struct mosquitto *mqtt, const char *topic, const char *text,
              const char *answers)
{
    mosquitto_property *properties = NULL;
    mosquitto_property_add_string(&properties, MQTT_PROP_RESPONSE_TOPIC,
                                  answers);
    int length = (int)strlen(text);
    if (mosquitto_publish_v5(mqtt, NULL, topic, length, text, 1, false,
                             properties) == MOSQ_ERR_NOT_SUPPORTED)
        mosquitto_publish(mqtt, NULL, topic, length, text, 1, false);
    mosquitto_property_free_all(&properties);
}

bool mqtt_is_old(int why)
{
    return why == MQTT_RC_UNSUPPORTED_PROTOCOL_VERSION ||
           why == CONNACK_REFUSED_PROTOCOL_VERSION;
}

void mqtt_topic(const struct mqtt_config *config, const char *site,
                const char *below, char topic[MQTT_TOPIC_SIZE])
{
    snprintf(topic, MQTT_TOPIC_SIZE, "%.80s/%.64s/%.250s", config->base, site,
             below);
}
