/* Sections and keys. */
#include "config.h"

#include <errno.h>
#include <limits.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "../grammar/quantity.h"
#include "page/door.h"
#include "texts/tty.h"

#define MINUTES_S (90 * INT64_C(86400))
#define MINUTES_LEAST_S 86400
#define AT_MOST_LEAST (INT64_C(1) << 20)

static struct place place_of(const struct ini_entry *entry)
{
    return (struct place){entry->line, entry->text};
}

#define CONFIG_KEYS_MOST 8

/* A key of a section: its text goes to `text`, or is taken by `fits`, which
 * says whether it may be; null: anything may. */
struct config_key {
    const char *name;
    const char **text;
    bool (*fits)(struct config *config, const char *text);
    const char *expected;
};

static void wrong_key(struct config *config, const struct ini_entry *entry,
                      const struct config_key *keys)
{
    char list[120];
    char message[200];
    const char *names[CONFIG_KEYS_MOST + 1] = {NULL};
    for (size_t i = 0; keys[i].name; i++)
        names[i] = keys[i].name;
    words_list(list, sizeof(list), names);
    snprintf(message, sizeof(message), "no such key; expected %s", list);
    problem_word(&config->problems, place_of(entry), message,
                 nearest_word(entry->key, names));
}

static void read_key(struct config *config, const struct ini_entry *entry,
                     const struct config_key *keys)
{
    const struct config_key *key = keys;
    while (key->name && strcmp(key->name, entry->key) != 0)
        key++;
    if (!key->name) {
        wrong_key(config, entry, keys);
        return;
    }
    if (key->text)
        *key->text = entry->value;
    if (key->fits && !key->fits(config, entry->value))
        problem_error(&config->problems, place_of(entry), "expected %s",
                      key->expected);
}

/* The keys end with one that has no name. */
static void read_keys(struct config *config, const struct ini_section *section,
                      const struct config_key *keys)
{
    for (size_t i = 0; i < section->count; i++)
        read_key(config, &section->entries[i], keys);
}

static bool is_path(struct config *config, const char *text)
{
    (void)config;
    return *text == '/';
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

static bool take_minutes(struct config *config, const char *text)
{
    double span_s = 0;
    if (quantity_read_time(text, &span_s) || span_s < MINUTES_LEAST_S)
        return false;
    config->history.minutes_s = (int64_t)span_s;
    return true;
}

static bool take_at_most(struct config *config, const char *text)
{
    int64_t *bytes = &config->history.at_most;
    return read_size(text, bytes) && *bytes >= AT_MOST_LEAST;
}

static void read_history(struct config *config,
                         const struct ini_section *section)
{
    struct place place = {section->line, section->text};
    const struct config_key keys[] = {
        {"file", &config->history.file, is_path,
         "a whole path, such as /var/lib/cuplatch-serve/history.db"},
        {"minutes", NULL, take_minutes, "a time from 1d on, such as 90d"},
        {"at_most", NULL, take_at_most,
         "a size from 2MB on, such as 500MB or 2GB"},
        {NULL, NULL, NULL, NULL}};
    read_keys(config, section, keys);
    if (!config->history.file)
        problem_error(&config->problems, place,
                      "needs file = where it is kept");
}

/* The page */

static bool is_yes_or_no(struct config *config, const char *text)
{
    (void)config;
    return strcmp(text, "yes") == 0 || strcmp(text, "no") == 0;
}

static void read_page(struct config *config, const struct ini_section *section)
{
    struct place place = {section->line, section->text};
    struct page_config *page = &config->page;
    const char *says_plain = "no";
    const char path[] = "a whole path, such as /var/lib/cuplatch-serve/keys";
    const struct config_key keys[] = {
        {"listen", &page->listen, NULL, NULL},
        {"names", &page->names, NULL, NULL},
        {"keys", &page->keys, is_path, path},
        {"certificate", &page->certificate, is_path, path},
        {"plain", &says_plain, is_yes_or_no, "yes or no"},
        {"files", &page->files, is_path, path},
        {NULL, NULL, NULL, NULL}};
    read_keys(config, section, keys);
    bool plain = strcmp(says_plain, "yes") == 0;
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
    struct place place = {section->line, section->text};
    const char *command = NULL;
    const struct config_key keys[] = {{"command", &command, NULL, NULL},
                                      {NULL, NULL, NULL, NULL}};
    char program[400];
    read_keys(config, section, keys);
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

static bool take_url(struct config *config, const char *url)
{
    struct mqtt_config *broker = config->at;
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
static bool is_base(struct config *config, const char *text)
{
    (void)config;
    return *text && *text != '$' && *text != '/' && !strpbrk(text, "+#") &&
           text[strlen(text) - 1] != '/' && strlen(text) < 80;
}

/* What all who talk to a broker say. */
static void read_at(struct config *config, const struct ini_section *section,
                    struct mqtt_config *at, const struct config_key own[2])
{
    struct place place = {section->line, section->text};
    const char path[] = "a whole path";
    const struct config_key keys[] = {
        own[0],
        own[1],
        {"base", &at->base, is_base, "what topics begin with, such as garden"},
        {"user", &at->user, NULL, NULL},
        {"password_file", &at->password_file, is_path, path},
        {"authority", &at->authority, is_path, path},
        {NULL, NULL, NULL, NULL}};
    config->at = at;
    read_keys(config, section, keys);
    if (!at->base)
        problem_error(&config->problems, place,
                      "needs base = what all topics begin with");
    if (at->password_file && !at->user)
        problem_error(&config->problems, place,
                      "needs user, too, where there is a password_file");
}

static const char url_form[] = "mqtts://HOST:PORT or mqtt://HOST:PORT";

static void read_broker(struct config *config,
                        const struct ini_section *section)
{
    struct place place = {section->line, section->text};
    const char *url = NULL;
    const char *words = "no";
    const struct config_key own[] = {
        {"url", &url, take_url, url_form},
        {"words", &words, is_yes_or_no, "yes or no"}};
    read_at(config, section, &config->broker.at, own);
    config->broker.words = strcmp(words, "yes") == 0;
    if (!url)
        problem_error(&config->problems, place,
                      "needs url = mqtts://HOST:PORT of the broker");
}

/* Sites */

static void read_sites(struct config *config, const struct ini_section *section)
{
    struct place place = {section->line, section->text};
    const char *is = NULL;
    const char *url = NULL;
    const struct config_key own[] = {{"is", &is, NULL, NULL},
                                     {"broker", &url, take_url, url_form}};
    if (config->afar.name)
        problem_error(&config->problems, place,
                      "[%s] follows the sites of a broker already",
                      config->afar.name);
    read_at(config, section, &config->afar.at, own);
    config->afar.name = section->name;
    if (!url)
        problem_error(&config->problems, place,
                      "needs broker = mqtts://HOST:PORT, whose sites it is to "
                      "follow");
}

static void read_one(struct config *config, const struct ini_section *section)
{
    struct place place = {section->line, section->text};
    struct config_site site = {section->name, NULL};
    const char *is = NULL;
    const struct config_key keys[] = {{"is", &is, NULL, NULL},
                                      {"socket", &site.socket, NULL, NULL},
                                      {NULL, NULL, NULL, NULL}};
    read_keys(config, section, keys);
    if (!is || strcmp(is, "site") != 0)
        problem_error(&config->problems, place,
                      "expected is = site, a controller to follow, is = "
                      "sites, those of a broker, [history], [page], [broker], "
                      "[modem] or [post]");
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

static void read_site(struct config *config, const struct ini_section *section)
{
    for (size_t i = 0; i < section->count; i++)
        if (strcmp(section->entries[i].key, "is") == 0 &&
            strcmp(section->entries[i].value, "sites") == 0) {
            read_sites(config, section);
            return;
        }
    read_one(config, section);
}

/* It would follow itself. */
static void check_brokers(struct config *config)
{
    const struct mqtt_config *a = &config->broker.at;
    const struct mqtt_config *b = &config->afar.at;
    if (*a->host && a->base && b->base && strcmp(a->host, b->host) == 0 &&
        a->port == b->port && strcmp(a->base, b->base) == 0)
        problem_error(&config->problems, (struct place){0, "[broker]"},
                      "tells the sites of this file where [%s] follows them; "
                      "expected another base",
                      config->afar.name);
}

/* The modem */

static bool take_baud(struct config *config, const char *text)
{
    char *end;
    long baud = strtol(text, &end, 10);
    config->texts.baud = (int)baud;
    return *text && !*end && baud > 0 && baud < INT_MAX &&
           tty_is_baud((int)baud);
}

static bool take_a_day(struct config *config, const char *text)
{
    char *end;
    long count = strtol(text, &end, 10);
    config->texts.a_day = (int)count;
    return *text && !*end && count >= 1 && count <= 1000;
}

/* "22:30", in minutes; -1: it is none. */
static int minute_of(const char *text, size_t length)
{
    int hours, minutes, used = 0;
    char copy[6];
    if (length != 5)
        return -1;
    memcpy(copy, text, 5);
    copy[5] = '\0';
    if (sscanf(copy, "%2d:%2d%n", &hours, &minutes, &used) != 2 || used != 5 ||
        hours < 0 || hours > 23 || minutes < 0 || minutes > 59)
        return -1;
    return hours * 60 + minutes;
}

static bool take_quiet(struct config *config, const char *text)
{
    const char *dots = strstr(text, "..");
    if (!dots)
        return false;
    config->texts.quiet_from = minute_of(text, (size_t)(dots - text));
    config->texts.quiet_to = minute_of(dots + 2, strlen(dots + 2));
    return config->texts.quiet_from >= 0 && config->texts.quiet_to >= 0;
}

static void read_modem(struct config *config, const struct ini_section *section)
{
    struct place place = {section->line, section->text};
    struct texts_config *texts = &config->texts;
    const char path[] = "a whole path";
    const struct config_key keys[] = {
        {"device", &texts->device, is_path, path},
        {"baud", NULL, take_baud, "a speed such as 115200"},
        {"pin_file", &texts->pin_file, is_path, path},
        {"people", &texts->people, is_path, path},
        {"quiet", NULL, take_quiet, "two times, such as 22:00..06:30"},
        {"a_day", NULL, take_a_day, "a number of messages, 1 to 1000"},
        {NULL, NULL, NULL, NULL}};
    read_keys(config, section, keys);
    if (!texts->device)
        problem_error(&config->problems, place,
                      "needs device = the modem's line, such as "
                      "/dev/serial/by-id/...");
    if (!texts->people)
        problem_error(&config->problems, place,
                      "needs people = the file of who is texted");
}

/* What is not yet sent is kept beside the history. */
static void place_queue(struct config *config)
{
    const char *who = config->post.command      ? "[post]"
                      : config->texts.device    ? "[modem]"
                      : *config->broker.at.host ? "[broker]"
                                                : config->afar.name;
    if (!who)
        return;
    if (!config->history.file) {
        problem_error(&config->problems, (struct place){0, who},
                      "needs [history], beside whose file it keeps what it "
                      "must know again");
        return;
    }
    snprintf(config->queue, sizeof(config->queue), "%s.post",
             config->history.file);
    config->post.queue = config->queue;
    snprintf(config->texts_queue, sizeof(config->texts_queue), "%s.texts",
             config->history.file);
    config->texts.queue = config->texts_queue;
}

typedef void read_section(struct config *config,
                          const struct ini_section *section);

/* A section of any other name is a site. */
static read_section *reader_of(const char *name)
{
    static const struct {
        const char *name;
        read_section *read;
    } parts[] = {{"history", read_history},
                 {"page", read_page},
                 {"broker", read_broker},
                 {"modem", read_modem},
                 {"post", read_post}};
    for (size_t i = 0; i < sizeof(parts) / sizeof(parts[0]); i++)
        if (strcmp(parts[i].name, name) == 0)
            return parts[i].read;
    return read_site;
}

bool config_read(struct config *config, const char *path)
{
    *config = (struct config){.history = {.minutes_s = MINUTES_S},
                              .page = {.files = CUP_PAGE_FILES},
                              .texts = {.baud = 115200, .a_day = TEXTS_A_DAY}};
    FILE *in = fopen(path, "r");
    if (!in)
        return false;
    ini_file_read(&config->ini, in, &config->problems);
    bool failed = ferror(in);
    int why = errno;
    fclose(in);
    errno = why;
    for (size_t i = 0; !failed && i < config->ini.count; i++)
        reader_of(config->ini.sections[i].name)(config,
                                                &config->ini.sections[i]);
    place_queue(config);
    config->page.people = config->texts.people;
    check_brokers(config);
    if (config->site_count == 0 && !config->afar.name &&
        config->problems.errors == 0)
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
