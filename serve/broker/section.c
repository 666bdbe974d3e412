/* [broker] of the file, and what all who talk to a broker say. */
#include <stdlib.h>
#include <string.h>

#include "broker.h"

/* Where the host of "mqtt://host" or "mqtts://host:8883" begins; null: it is
 * neither. */
static const char *host_of(const char *url, bool *tls)
{
    *tls = strncmp(url, "mqtts://", 8) == 0;
    if (*tls)
        return url + 8;
    return strncmp(url, "mqtt://", 7) == 0 ? url + 7 : NULL;
}

/* Where a port is said; null: it is not. A colon within brackets is of the
 * address. */
static const char *port_of(const char *host)
{
    const char *colon = strrchr(host, ':');
    return colon && !strchr(colon, ']') ? colon : NULL;
}

/* An address of its own kind goes without its brackets. */
static bool take_host(struct mqtt_config *broker, const char *host,
                      size_t length)
{
    if (length > 1 && host[0] == '[' && host[length - 1] == ']') {
        host++;
        length -= 2;
    }
    if (length == 0 || length >= sizeof(broker->host))
        return false;
    memcpy(broker->host, host, length);
    broker->host[length] = '\0';
    return true;
}

bool mqtt_take_url(void *at, const char *url)
{
    struct mqtt_config *broker = at;
    const char *host = host_of(url, &broker->tls);
    if (!host || strchr(host, '/'))
        return false;
    const char *port = port_of(host);
    broker->port = broker->tls ? 8883 : 1883;
    if (port)
        broker->port = atoi(port + 1);
    return broker->port > 0 && broker->port < 65536 &&
           take_host(broker, host, port ? (size_t)(port - host) : strlen(host));
}

/* What may stand in a topic, and begins none of another kind. */
static bool is_base(void *at, const char *text)
{
    (void)at;
    return *text && *text != '$' && *text != '/' && !strpbrk(text, "+#") &&
           text[strlen(text) - 1] != '/' && strlen(text) < 80;
}

void mqtt_read(struct mqtt_config *at, const struct ini_section *section,
               const struct entry_key own[2], struct problems *problems)
{
    struct place place = entries_place(section);
    const char path[] = "a whole path";
    const struct entry_key keys[] = {
        own[0],
        own[1],
        {"base", &at->base, is_base, "what topics begin with, such as garden"},
        {"user", &at->user, NULL, NULL},
        {"password_file", &at->password_file, entry_is_path, path},
        {"authority", &at->authority, entry_is_path, path},
        {NULL, NULL, NULL, NULL}};
    entries_read(problems, section, keys, at);
    if (!at->base)
        problem_error(problems, place,
                      "needs base = what all topics begin with");
    if (at->password_file && !at->user)
        problem_error(problems, place,
                      "needs user, too, where there is a password_file");
}

void broker_read(struct broker_config *config,
                 const struct ini_section *section, struct problems *problems)
{
    struct place place = entries_place(section);
    const char *url = NULL;
    const char *words = "no";
    const struct entry_key own[] = {
        {"url", &url, mqtt_take_url, MQTT_URL_FORM},
        {"words", &words, entry_is_yes_or_no, "yes or no"}};
    mqtt_read(&config->at, section, own, problems);
    config->words = strcmp(words, "yes") == 0;
    if (!url)
        problem_error(problems, place,
                      "needs url = mqtts://HOST:PORT of the broker");
}
