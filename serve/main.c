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

/* What it would do, for people. */
static void tell(const struct config *config)
{
    const struct config_history *history = &config->history;
    for (size_t i = 0; i < config->site_count; i++)
        printf("It will follow %s at %s%s.\n", config->sites[i].name,
               config->sites[i].socket,
               access(config->sites[i].socket, F_OK) == 0
                   ? ""
                   : ", where nothing is now");
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

/* Everything that runs in the loop. */
struct service {
    struct event_base *base;
    struct event *ends[2];
    struct past *past; /* null: no history is kept */
    struct link *links[CONFIG_SITES_MOST];
    size_t count;
};

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
    for (size_t i = 0; service->past && i < config->site_count; i++) {
        const struct config_site *site = &config->sites[i];
        struct link_ear ear = past_ear(service->past, site->name);
        struct link *link = link_open(base, site->name, site->socket, &ear);
        past_link(service->past, &ear, link);
        service->links[service->count++] = link;
    }
}

static void finish(struct service *service)
{
    for (size_t i = 0; i < service->count; i++)
        link_close(service->links[i]);
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

static int go(const char *path, bool check)
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
        else if (check) {
            tell(&config);
            code = DONE;
        } else
            code = serve(&config);
    }
    config_free(&config);
    return code;
}

int main(int argc, const char **argv)
{
    int check = 0;
    struct poptOption options[] = {
        {"check", 0, POPT_ARG_NONE, &check, 0,
         "read the file, say what it would do, and end", NULL},
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
        code = go(path, check);
    poptFreeContext(context);
    return code;
}
