/* A broker and how to come in there, as a file says it: what all who talk to
 * one share. */
#ifndef CUPLATCH_SERVE_BROKER_MQTT_H
#define CUPLATCH_SERVE_BROKER_MQTT_H

#include <mosquitto.h>
#include <stdbool.h>
#include <stddef.h>

#include "../common/entries.h"

#define MQTT_TOPIC_SIZE 400
#define MQTT_KEEPALIVE_S 20

/*   host   of mqtt://HOST:PORT, or of mqtts:// which is by TLS; empty: there is
 *          no broker
 *   base   what all topics begin with
 *   user, password_file, authority  may be null; the password is the file's
 *          first line, read at each connection; the authority's certificates
 *          are those of the machine where none is named */
struct mqtt_config {
    char host[200];
    int port;
    bool tls;
    const char *base;
    const char *user;
    const char *password_file;
    const char *authority;
};

/* Reads a section of whoever talks to one: `own` are two keys of its own, of
 * which one may be taken by mqtt_take_url(), "mqtts://HOST:PORT" or
 * "mqtt://HOST:PORT" into an mqtt_config. What is wrong is among the problems.
 */
#define MQTT_URL_FORM "mqtts://HOST:PORT or mqtt://HOST:PORT"
bool mqtt_take_url(void *at, const char *url);
void mqtt_read(struct mqtt_config *at, const struct ini_section *section,
               const struct entry_key own[2], struct problems *problems);

/* Makes a client ready to connect: by MQTT 5, or 3.1.1 if `old`. False, and
 * `wrong` says why. */
bool mqtt_prepare(struct mosquitto *mqtt, const struct mqtt_config *config,
                  bool old, char *wrong, size_t size);

/* Begins to connect, by a thread of the library. False, and `wrong` says why.
 */
bool mqtt_begin(struct mosquitto *mqtt, const struct mqtt_config *config,
                char *wrong, size_t size);

/* Connects, and waits for it. False, and `wrong` says why. */
bool mqtt_connect(struct mosquitto *mqtt, const struct mqtt_config *config,
                  char *wrong, size_t size);

/* Says something at QoS 1; its answer is to come on a topic, where the protocol
 * has such a thing. */
void mqtt_say(struct mosquitto *mqtt, const char *topic, const char *text,
              const char *answers);

/* Why the library could not come in, such as a certificate that nobody trusts,
 * since the last mqtt_prepare(); `otherwise` where it has not said. Of the last
 * client where there are several: they are of one broker. */
void mqtt_why(char *why, size_t size, const char *otherwise);

/* Whether a refusal is of the protocol, so that the older one may do. */
bool mqtt_is_old(int why);

/* BASE/SITE/BELOW. */
void mqtt_topic(const struct mqtt_config *config, const char *site,
                const char *below, char topic[MQTT_TOPIC_SIZE]);

#endif
