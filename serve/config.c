/* Sections and keys. */
#include "config.h"

#include <errno.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "../grammar/quantity.h"
#include "page/door.h"

#define MINUTES_S (90 * INT64_C(86400))
#define MINUTES_LEAST_S 86400
#define AT_MOST_LEAST (INT64_C(1) << 20)

static struct place place_of(const struct ini_entry *entry)
{
    return (struct place){entry->line, entry->text};
}

static void wrong_key(struct config *config, const struct ini_entry *entry,
                      const char *const *keys)
{
    char list[120];
    char message[200];
    words_list(list, sizeof(list), keys);
    snprintf(message, sizeof(message), "no such key; expected %s", list);
    problem_word(&config->problems, place_of(entry), message,
                 nearest_word(entry->key, keys));
}

static const char *value_of(const struct ini_section *section, const char *key)
{
    for (size_t i = 0; i < section->count; i++)
        if (strcmp(section->entries[i].key, key) == 0)
            return section->entries[i].value;
    return NULL;
}

/* A site */

static void read_site(struct config *config, const struct ini_section *section)
{
    static const char *const keys[] = {"is", "socket", NULL};
    struct place place = {section->line, section->text};
    struct config_site site = {section->name, value_of(section, "socket")};
    const char *is = value_of(section, "is");
    for (size_t i = 0; i < section->count; i++)
        if (strcmp(section->entries[i].key, "is") != 0 &&
            strcmp(section->entries[i].key, "socket") != 0)
            wrong_key(config, &section->entries[i], keys);
    if (!is || strcmp(is, "site") != 0)
        problem_error(&config->problems, place,
                      "expected is = site, a controller to follow, "
                      "[history], [page], [broker] or [post]");
    else if (!site.socket || *site.socket != '/')
        problem_error(&config->problems, place,
                      "expected socket = the whole path of the controller's, "
                      "such as /run/cuplatch/keeper.sock");
    else if (config->site_count == LINKS_MOST)
        problem_error(&config->problems, place, "more than %d sites",
                      LINKS_MOST);
    else
        config->sites[config->site_count++] = site;
}

/* The history */

/* "500MB" or "2GB": bytes. */
static bool read_size(const char *text, int64_t *bytes)
{
    char *end;
    double number = strtod(text, &end);
    double unit = strcmp(end, "MB") == 0   ? 1e6
                  : strcmp(end, "GB") == 0 ? 1e9
                                           : 0;
    if (end == text || unit <= 0 || !(number > 0) || number * unit > 9e15)
        return false;
    *bytes = (int64_t)(number * unit);
    return true;
}

static void read_history_key(struct config *config,
                             const struct ini_entry *entry)
{
    static const char *const keys[] = {"file", "minutes", "at_most", NULL};
    struct past_config *history = &config->history;
    double span_s = 0;
    if (strcmp(entry->key, "file") == 0) {
        history->file = entry->value;
        if (*entry->value != '/')
            problem_error(&config->problems, place_of(entry),
                          "expected a whole path, such as "
                          "/var/lib/cuplatch/history.db");
    } else if (strcmp(entry->key, "minutes") == 0) {
        if (quantity_read_time(entry->value, &span_s) ||
            span_s < MINUTES_LEAST_S)
            problem_error(&config->problems, place_of(entry),
                          "expected a time from 1d on, such as 90d");
        history->minutes_s = (int64_t)span_s;
    } else if (strcmp(entry->key, "at_most") == 0) {
        if (!read_size(entry->value, &history->at_most) ||
            history->at_most < AT_MOST_LEAST)
            problem_error(&config->problems, place_of(entry),
                          "expected a size from 2MB on, such as 500MB or 2GB");
    } else
        wrong_key(config, entry, keys);
}

static void read_history(struct config *config,
                         const struct ini_section *section)
{
    for (size_t i = 0; i < section->count; i++)
        read_history_key(config, &section->entries[i]);
    if (!config->history.file)
        problem_error(&config->problems,
                      (struct place){section->line, section->text},
                      "needs file = where it is kept");
}

/* The page */

static void read_page_key(struct config *config, const struct ini_entry *entry,
                          bool *plain)
{
    static const char *const keys[] = {"listen", "names", "keys", "certificate",
                                       "plain",  "files", NULL};
    struct page_config *page = &config->page;
    const char **const values[] = {&page->listen, &page->names,
                                   &page->keys,   &page->certificate,
                                   NULL,          &page->files};
    for (size_t i = 0; keys[i]; i++) {
        if (strcmp(entry->key, keys[i]) != 0)
            continue;
        if (values[i])
            *values[i] = entry->value;
        else
            *plain = strcmp(entry->value, "yes") == 0;
        if (i >= 2 && values[i] && *entry->value != '/')
            problem_error(&config->problems, place_of(entry),
                          "expected a whole path, such as "
                          "/var/lib/cuplatch/keys");
        if (!values[i] && !*plain && strcmp(entry->value, "no") != 0)
            problem_error(&config->problems, place_of(entry),
                          "expected yes or no");
        return;
    }
    wrong_key(config, entry, keys);
}

static void read_page(struct config *config, const struct ini_section *section)
{
    struct place place = {section->line, section->text};
    struct page_config *page = &config->page;
    bool plain = false;
    for (size_t i = 0; i < section->count; i++)
        read_page_key(config, &section->entries[i], &plain);
    if (!page->listen || !strchr(page->listen, ':'))
        problem_error(&config->problems, place,
                      "needs listen = ADDRESS:PORT, such as 127.0.0.1:8460");
    else if (!page->certificate && !plain && !door_is_loopback(page->listen))
        problem_error(
            &config->problems, place,
            "%s is open to others: needs certificate = a PEM file, or "
            "plain = yes where something before it does that",
            page->listen);
    if (!page->keys)
        problem_error(&config->problems, place,
                      "needs keys = the file of keys; cuplatch-serve CONFIG "
                      "--new-key NAME makes one");
}

/* The post */

static void read_post(struct config *config, const struct ini_section *section)
{
    static const char *const keys[] = {"command", NULL};
    struct place place = {section->line, section->text};
    const char *command = value_of(section, "command");
    char program[400];
    for (size_t i = 0; i < section->count; i++)
        if (strcmp(section->entries[i].key, "command") != 0)
            wrong_key(config, &section->entries[i], keys);
    snprintf(program, sizeof(program), "%.*s",
             command ? (int)strcspn(command, " ") : 0, command ? command : "");
    if (*program != '/')
        problem_error(&config->problems, place,
                      "needs command = the whole path of a program, such as "
                      "/usr/local/bin/page-me");
    else if (access(program, X_OK) != 0)
        problem_error(&config->problems, place,
                      "%s: %s; expected a program that may be run", program,
                      strerror(errno));
    config->post.command = command;
}

/* The broker */

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

static bool read_url(const char *url, struct broker_config *broker)
{
    const char *host = host_of(url, &broker->tls);
    if (!host || strchr(host, '/'))
        return false;
    const char *port = port_of(host);
    size_t length = port ? (size_t)(port - host) : strlen(host);
    broker->port = broker->tls ? 8883 : 1883;
    if (port)
        broker->port = atoi(port + 1);
    if (length == 0 || length >= sizeof(broker->host))
        return false;
    memcpy(broker->host, host, length);
    broker->host[length] = '\0';
    return broker->port > 0 && broker->port < 65536;
}

/* What may stand in a topic, and begins none of another kind. */
static bool is_base(const char *text)
{
    return *text && *text != '$' && *text != '/' && !strpbrk(text, "+#") &&
           text[strlen(text) - 1] != '/' && strlen(text) < 80;
}

static void read_broker_key(struct config *config,
                            const struct ini_entry *entry)
{
    static const char *const keys[] = {"url",           "base",      "user",
                                       "password_file", "authority", NULL};
    struct broker_config *broker = &config->broker;
    const char **const values[] = {NULL, &broker->base, &broker->user,
                                   &broker->password_file, &broker->authority};
    for (size_t i = 0; keys[i]; i++) {
        if (strcmp(entry->key, keys[i]) != 0)
            continue;
        if (values[i])
            *values[i] = entry->value;
        if (i == 0 && !read_url(entry->value, broker))
            problem_error(&config->problems, place_of(entry),
                          "expected mqtts://HOST:PORT or mqtt://HOST:PORT");
        if (i == 1 && !is_base(entry->value))
            problem_error(&config->problems, place_of(entry),
                          "expected what topics begin with, such as garden");
        if (i > 2 && *entry->value != '/')
            problem_error(&config->problems, place_of(entry),
                          "expected a whole path");
        return;
    }
    wrong_key(config, entry, keys);
}

static void read_broker(struct config *config,
                        const struct ini_section *section)
{
    struct place place = {section->line, section->text};
    for (size_t i = 0; i < section->count; i++)
        read_broker_key(config, &section->entries[i]);
    if (!value_of(section, "url"))
        problem_error(&config->problems, place,
                      "needs url = mqtts://HOST:PORT of the broker");
    if (!config->broker.base)
        problem_error(&config->problems, place,
                      "needs base = what all topics begin with");
    if (config->broker.password_file && !config->broker.user)
        problem_error(&config->problems, place,
                      "needs user, too, where there is a password_file");
}

/* What is not yet sent is kept beside the history. */
static void place_queue(struct config *config)
{
    if (!config->post.command && !*config->broker.host)
        return;
    if (!config->history.file) {
        problem_error(
            &config->problems,
            (struct place){0, config->post.command ? "[post]" : "[broker]"},
            "needs [history], with whose file it keeps what is not "
            "yet sent");
        return;
    }
    snprintf(config->queue, sizeof(config->queue), "%s.post",
             config->history.file);
    config->post.queue = config->queue;
}

bool config_read(struct config *config, const char *path)
{
    *config = (struct config){.history = {.minutes_s = MINUTES_S},
                              .page = {.files = CUP_PAGE_FILES}};
    FILE *in = fopen(path, "r");
    if (!in)
        return false;
    ini_file_read(&config->ini, in, &config->problems);
    bool failed = ferror(in);
    int why = errno;
    fclose(in);
    errno = why;
    for (size_t i = 0; !failed && i < config->ini.count; i++)
        if (strcmp(config->ini.sections[i].name, "history") == 0)
            read_history(config, &config->ini.sections[i]);
        else if (strcmp(config->ini.sections[i].name, "page") == 0)
            read_page(config, &config->ini.sections[i]);
        else if (strcmp(config->ini.sections[i].name, "post") == 0)
            read_post(config, &config->ini.sections[i]);
        else if (strcmp(config->ini.sections[i].name, "broker") == 0)
            read_broker(config, &config->ini.sections[i]);
        else
            read_site(config, &config->ini.sections[i]);
    place_queue(config);
    if (config->site_count == 0 && config->problems.errors == 0)
        problem_error(&config->problems, (struct place){0, "this file"},
                      "no site to follow; expected a section such as [keeper] "
                      "with is = site and its socket");
    return !failed;
}

void config_free(struct config *config)
{
    ini_file_free(&config->ini);
    problems_free(&config->problems);
}
