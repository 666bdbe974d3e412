/* cuplatch-serve CONFIG: what controllers say, kept and shown. It has no pin,
 * and no pump waits for it. */
#include <errno.h>
#include <event2/event.h>
#include <popt.h>
#include <signal.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "config.h"
#include "note.h"
#include "past.h"

enum { DONE = 0, NO = 1, USAGE = 2, OUTSIDE = 3 };

static void end(evutil_socket_t signal, short what, void *base)
{
    (void)signal, (void)what;
    event_base_loopbreak(base);
}

static void tell_history(const struct past_config *history)
{
    if (!history->file) {
        puts("It will keep no history: there is no [history].");
        return;
    }
    printf("It will keep a history in %s%s: minutes for %lld days, then "
           "hours.\n",
           history->file, access(history->file, F_OK) == 0 ? "" : ", a new one",
           (long long)(history->minutes_s / 86400));
    if (history->at_most > 0)
        printf("Past %.0f MB the oldest minutes go.\n",
               (double)history->at_most / 1e6);
}

/* What it would do, for people. */
static void tell(const struct config *config)
{
    const struct page_config *page = &config->page;
    for (size_t i = 0; i < config->site_count; i++)
        printf("It will follow %s at %s%s.\n", config->sites[i].name,
               config->sites[i].socket,
               access(config->sites[i].socket, F_OK) == 0
                   ? ""
                   : ", where nothing is now");
    if (page->listen)
        printf("It will show a page at http%s://%s, to whoever has a key of "
               "%s.\n",
               page->certificate ? "s" : "", page->listen, page->keys);
    else
        puts("It will show no page: there is no [page].");
    if (config->post.command)
        printf("It will run %s for each alert, trip and leak.\n",
               config->post.command);
    if (*config->broker.host)
        printf("It will tell the broker at %s:%d%s, below %s.\n",
               config->broker.host, config->broker.port,
               config->broker.tls ? " by TLS" : "", config->broker.base);
    tell_history(&config->history);
}

/* Who hears of one controller: each part that is there. */
struct ears {
    struct link_ear list[4];
    size_t count;
};

/* The first one says from where its events go on. */
static int64_t since(void *self, const char *id, char *run)
{
    const struct link_ear *first = &((struct ears *)self)->list[0];
    return first->since(first->self, id, run);
}

static void heard(void *self, const json_t *line)
{
    const struct ears *ears = self;
    for (size_t i = 0; i < ears->count; i++)
        ears->list[i].heard(ears->list[i].self, line);
}

static void answered(void *self, const json_t *line)
{
    const struct ears *ears = self;
    for (size_t i = 0; i < ears->count; i++)
        if (ears->list[i].answered)
            ears->list[i].answered(ears->list[i].self, line);
}

static void up(void *self, bool there)
{
    const struct ears *ears = self;
    for (size_t i = 0; i < ears->count; i++)
        ears->list[i].up(ears->list[i].self, there);
}

/* Everything that runs in the loop. */
struct service {
    struct event_base *base;
    struct event *ends[2];
    struct past *past;     /* null: no history is kept */
    struct page *page;     /* null: there is none */
    struct post *post;     /* null: nobody is called */
    struct broker *broker; /* null: there is none */
    struct ears ears[LINKS_MOST];
    struct link *links[LINKS_MOST];
    size_t count;
};

static void follow(struct service *service, const struct config_site *site)
{
    struct ears *ears = &service->ears[service->count];
    const struct link_ear all = {since, heard, answered, up, ears};
    if (service->past)
        ears->list[ears->count++] = past_ear(service->past, site->name);
    if (service->page)
        ears->list[ears->count++] = page_ear(service->page, site->name);
    size_t pages = ears->count - 1;
    if (service->post)
        ears->list[ears->count++] = post_ear(service->post, site->name);
    if (service->broker)
        ears->list[ears->count++] = broker_ear(service->broker, site->name);
    if (ears->count == 0)
        return; /* nobody wants to know */
    struct link *link =
        link_open(service->base, site->name, site->socket, &all);
    if (service->past)
        past_link(service->past, &ears->list[0], link);
    if (service->page)
        page_link(service->page, &ears->list[pages], link);
    service->links[service->count++] = link;
}

static void begin(struct service *service, const struct config *config)
{
    struct event_base *base = event_base_new();
    if (!base)
        abort();
    service->base = base;
    service->ends[0] = evsignal_new(base, SIGTERM, end, base);
    service->ends[1] = evsignal_new(base, SIGINT, end, base);
    for (size_t i = 0; i < 2; i++)
        if (!service->ends[i] || event_add(service->ends[i], NULL) != 0)
            abort();
    signal(SIGXFSZ, SIG_IGN); /* a file that may not grow is a full disk */
    signal(SIGPIPE, SIG_IGN);
    if (config->history.file)
        service->past = past_open(base, &config->history);
    if (config->page.listen)
        service->page = page_open(base, &config->page, config->history.file);
    if (config->post.command)
        service->post = post_open(&config->post);
    if (*config->broker.host)
        service->broker =
            broker_open(&config->broker, config->history.file, service->past);
    for (size_t i = 0; i < config->site_count; i++)
        follow(service, &config->sites[i]);
}

static void finish(struct service *service)
{
    for (size_t i = 0; i < service->count; i++)
        link_close(service->links[i]);
    if (service->page)
        page_close(service->page);
    if (service->post)
        post_close(service->post);
    if (service->broker)
        broker_close(service->broker);
    if (service->past)
        past_close(service->past);
    for (size_t i = 0; i < 2; i++)
        event_free(service->ends[i]);
    event_base_free(service->base);
}

static int serve(const struct config *config)
{
    struct service service = {.past = NULL};
    begin(&service, config);
    note("serve", NULL, "follows %zu site%s", config->site_count,
         config->site_count == 1 ? "" : "s");
    event_base_dispatch(service.base);
    finish(&service);
    note("serve", NULL, "ended");
    return DONE;
}

/* What the command is to do instead of serving. */
struct wishes {
    int check;
    char *new_key;
    char *drop_key;
    int look_only;
};

static int change_keys(const struct config *config, const char *path,
                       const struct wishes *wishes)
{
    const char *keys = config->page.keys;
    if (!keys) {
        fprintf(stderr, "cuplatch-serve: %s: there is no [page] with keys\n",
                path);
        return NO;
    }
    if (wishes->new_key)
        return page_new_key(keys, wishes->new_key, !wishes->look_only);
    return page_drop_key(keys, wishes->drop_key);
}

static int go(const char *path, const struct wishes *wishes)
{
    struct config config;
    int code = NO;
    if (!config_read(&config, path)) {
        fprintf(stderr, "cuplatch-serve: %s: %s\n", path, strerror(errno));
        code = USAGE;
    } else {
        problems_print(&config.problems, path, stderr);
        if (config.problems.errors > 0)
            code = NO;
        else if (wishes->check) {
            tell(&config);
            code = DONE;
        } else if (wishes->new_key || wishes->drop_key)
            code = change_keys(&config, path, wishes);
        else
            code = serve(&config);
    }
    config_free(&config);
    return code;
}

int main(int argc, const char **argv)
{
    struct wishes wishes = {.check = 0};
    struct poptOption options[] = {
        {"check", 0, POPT_ARG_NONE, &wishes.check, 0,
         "read the file, say what it would do, and end", NULL},
        {"new-key", 0, POPT_ARG_STRING, &wishes.new_key, 0,
         "make a key for the page, show it once, and end", "NAME"},
        {"look-only", 0, POPT_ARG_NONE, &wishes.look_only, 0,
         "with --new-key: it may look, but not steer", NULL},
        {"drop-key", 0, POPT_ARG_STRING, &wishes.drop_key, 0,
         "take a key back, and end", "NAME"},
        POPT_AUTOHELP POPT_TABLEEND};
    poptContext context =
        poptGetContext("cuplatch-serve", argc, argv, options, 0);
    poptSetOtherOptionHelp(context, "[OPTION...] CONFIG");
    int wrong = poptGetNextOpt(context);
    const char *path = poptGetArg(context);
    int code = USAGE;
    if (wrong < -1)
        fprintf(stderr, "cuplatch-serve: %s: %s\n",
                poptBadOption(context, POPT_BADOPTION_NOALIAS),
                poptStrerror(wrong));
    else if (!path || poptPeekArg(context))
        fprintf(stderr, "cuplatch-serve: expected CONFIG; --help tells more\n");
    else
        code = go(path, &wishes);
    poptFreeContext(context);
    free(wishes.new_key);
    free(wishes.drop_key);
    return code;
}
