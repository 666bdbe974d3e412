/* Which section is whose; each part reads its own. */
#include "config.h"

#include <errno.h>
#include <stdio.h>
#include <string.h>

#include "common/entries.h"

static void read_one(struct config *config, const struct ini_section *section)
{
    struct place place = entries_place(section);
    struct config_site site = {section->name, NULL};
    struct problems *problems = &config->problems;
    const char *is = NULL;
    const struct entry_key keys[] = {{"is", &is, NULL, NULL},
                                     {"socket", &site.socket, NULL, NULL},
                                     {NULL, NULL, NULL, NULL}};
    entries_read(problems, section, keys, config);
    if (!is || strcmp(is, "site") != 0)
        problem_error(problems, place,
                      "expected is = site, a controller to follow, is = "
                      "sites, those of a broker, [history], [page], [broker], "
                      "[modem] or [post]");
    else if (!site.socket || *site.socket != '/')
        problem_error(problems, place,
                      "expected socket = the whole path of the controller's, "
                      "such as /run/cuplatch/keeper.sock");
    else if (config->site_count == LINKS_MOST)
        problem_error(problems, place, "more than %d sites", LINKS_MOST);
    else
        config->sites[config->site_count++] = site;
}

static void read_site(struct config *config, const struct ini_section *section)
{
    for (size_t i = 0; i < section->count; i++)
        if (strcmp(section->entries[i].key, "is") == 0 &&
            strcmp(section->entries[i].value, "sites") == 0) {
            afar_read(&config->afar, section, &config->problems);
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

/* A section of any other name is a site. */
static void read_section(struct config *config,
                         const struct ini_section *section)
{
    struct problems *problems = &config->problems;
    if (strcmp(section->name, "history") == 0)
        past_read(&config->history, section, problems);
    else if (strcmp(section->name, "page") == 0)
        page_read(&config->page, section, problems);
    else if (strcmp(section->name, "broker") == 0)
        broker_read(&config->broker, section, problems);
    else if (strcmp(section->name, "modem") == 0)
        texts_read(&config->texts, section, problems);
    else if (strcmp(section->name, "post") == 0)
        post_read(&config->post, section, problems);
    else
        read_site(config, section);
}

bool config_read(struct config *config, const char *path)
{
    *config = (struct config){.history = {.minutes_s = PAST_MINUTES_S},
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
        read_section(config, &config->ini.sections[i]);
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
