/* cuplatch-serve CONFIG: what controllers say, kept and shown. It has no pin,
 * and no pump waits for it. */
#include <errno.h>
#include <event2/event.h>
#include <popt.h>
#include <signal.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "afar/afar.h"
#include "afar/say_once.h"
#include "alerts/trial.h"
#include "check.h"
#include "common/note.h"
#include "config.h"
#include "cuplatch/base.h"
#include "link/here.h"
#include "parts.h"
#include "texts/people.h"
#include "words/words.h"

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

static void tell_broker(const char *what, const struct mqtt_config *at)
{
    printf("It will %s the broker at %s:%d%s, below %s", what, at->host,
           at->port, at->tls ? " by TLS" : "", at->base);
}

static void tell_brokers(const struct config *config)
{
    const struct broker_config *broker = &config->broker;
    if (*broker->at.host) {
        tell_broker("tell", &broker->at);
        puts(broker->words ? ", and take words from there."
                           : ", and take no words from there.");
    }
    if (config->afar.name) {
        tell_broker("follow every site of", &config->afar.at);
        puts(".");
    }
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
    if (config->texts.device)
        printf("It will text people of %s by the modem at %s, %d times a day "
               "at the most.\n",
               config->texts.people, config->texts.device, config->texts.a_day);
    tell_brokers(config);
    tell_history(&config->history);
}

/* Everything that runs in the loop. */
struct service {
    struct event_base *base;
    struct event *ends[2];
    struct parts parts;
    struct afar *afar; /* null: nobody elsewhere is followed */
    struct ears *ears[LINKS_MOST];
    struct link *links[LINKS_MOST];
    size_t count;
    struct event *look;
};

static void follow(struct service *service, const struct config_site *site)
{
    struct ears *ears = ears_open(&service->parts, site->name, false);
    const struct link_ear ear = ears_ear(ears);
    struct link *link =
        link_open(service->base, site->name, site->socket, &ear);
    ears_link(ears, link);
    service->ears[service->count] = ears;
    service->links[service->count++] = link;
}

static void look(evutil_socket_t fd, short what, void *self)
{
    const struct service *service = self;
    (void)fd, (void)what;
    parts_look(&service->parts, (int64_t)time(NULL));
}

/* A site of the broker is heard as one of this machine is. */
static void *hear_afar(void *self, const char *id, struct link *link,
                       struct link_ear *ear)
{
    struct ears *ears = ears_open(self, id, true);
    *ear = ears_ear(ears);
    ears_link(ears, link);
    return ears;
}

static void hear_no_more(void *ears)
{
    ears_close(ears);
}

static void open_parts(struct service *service, const struct config *config,
                       bool trusts_clock)
{
    struct parts *parts = &service->parts;
    struct event_base *base = service->base;
    const char *history = config->history.file;
    parts->here = here_open(history);
    for (size_t i = 0; i < config->site_count; i++)
        here_expect(parts->here, config->sites[i].name);
    struct past_config past = config->history;
    past.trusts_clock = trusts_clock;
    if (history)
        parts->past = past_open(base, &past);
    parts->words = words_open(base, history, parts->past, trusts_clock);
    if (config->page.listen)
        parts->page = page_open(base, &config->page, history, parts->words);
    if (config->post.command)
        parts->post = post_open(&config->post);
    if (config->texts.device)
        parts->texts =
            texts_open(base, &config->texts, parts->words, parts->past);
    if (*config->broker.at.host)
        parts->broker = broker_open(base, &config->broker, history, parts->past,
                                    parts->words);
    const struct afar_ears ears = {hear_afar, hear_no_more, parts};
    if (config->afar.name)
        service->afar = afar_open(base, &config->afar, history, &ears);
}

static void begin(struct service *service, const struct config *config,
                  bool trusts_clock)
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
    open_parts(service, config, trusts_clock);
    static const struct timeval often = {.tv_sec = 1};
    service->look = event_new(base, -1, EV_PERSIST, look, service);
    if (!service->look || event_add(service->look, &often) != 0)
        abort();
    for (size_t i = 0; i < config->site_count; i++)
        follow(service, &config->sites[i]);
}

/* Who brings words ends before who passes them on, and who tells before who
 * hears. */
static void finish(struct service *service)
{
    const struct parts *parts = &service->parts;
    if (service->afar)
        afar_close(service->afar);
    for (size_t i = 0; i < service->count; i++)
        link_close(service->links[i]);
    event_free(service->look);
    words_close(parts->words);
    if (parts->page)
        page_close(parts->page);
    if (parts->post)
        post_close(parts->post);
    if (parts->texts)
        texts_close(parts->texts);
    if (parts->broker)
        broker_close(parts->broker);
    if (parts->past)
        past_close(parts->past);
    for (size_t i = 0; i < service->count; i++)
        ears_close(service->ears[i]);
    here_close(parts->here);
    for (size_t i = 0; i < 2; i++)
        event_free(service->ends[i]);
    event_base_free(service->base);
}

static int serve(const struct config *config, bool trusts_clock)
{
    struct service service = {.afar = NULL};
    begin(&service, config, trusts_clock);
    note("serve", NULL, "follows %zu site%s%s", config->site_count,
         config->site_count == 1 ? "" : "s",
         config->afar.name ? " here, and those of a broker" : "");
    event_base_dispatch(service.base);
    finish(&service);
    note("serve", NULL, "ended");
    return DONE;
}

/* What the command is to do instead of serving. */
struct wishes {
    int try;
    int check;
    int version;
    char *new_key;
    char *drop_key;
    int look_only;
    int trust_clock;
    int let_in;
    char *new_codes;
    char *tell; /* a site */
    char *ask;
    const char *const *words;
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

static int change_people(const struct config *config, const char *path,
                         const struct wishes *wishes)
{
    const char *people = config->texts.people;
    if (!people) {
        fprintf(stderr, "cuplatch-serve: %s: there is no [modem] with people\n",
                path);
        return NO;
    }
    if (wishes->let_in)
        return texts_let_in(people);
    return texts_new_codes(people, wishes->new_codes);
}

/* Over the broker whose sites it follows, or which it tells. */
static int say_afar(const struct config *config, const char *path,
                    const struct wishes *wishes)
{
    static const int codes[] = {
        [ONCE_DONE] = DONE, [ONCE_REFUSED] = NO, [ONCE_SILENT] = OUTSIDE};
    const struct mqtt_config *at =
        config->afar.name ? &config->afar.at : &config->broker.at;
    if (!*at->host) {
        fprintf(stderr,
                "cuplatch-serve: %s: there is no broker to say it over; "
                "expected [broker], or a section with is = sites\n",
                path);
        return NO;
    }
    if (!wishes->words || !*wishes->words) {
        fprintf(stderr, "cuplatch-serve: expected words after the site, such "
                        "as \"lift off\"\n");
        return USAGE;
    }
    return codes[say_once(at, wishes->tell ? wishes->tell : wishes->ask,
                          wishes->tell ? "tell" : "ask", wishes->words)];
}

/* How many people would be texted. */
static int count_people(const struct config *config)
{
    struct people people;
    char wrong[240];
    if (!config->texts.device)
        return 0;
    if (people_open(&people, config->texts.people, wrong, sizeof(wrong)))
        return (int)people.count;
    fprintf(stderr, "cuplatch-serve: %s: %s\n", config->texts.people, wrong);
    return 0;
}

/* A trial by each way that the file has. */
static int try_ways(const struct config *config, const char *path)
{
    const char *const queues[2] = {config->post.command ? config->queue : NULL,
                                   config->texts.device ? config->texts_queue
                                                        : NULL};
    const int answers[2] = {queues[0] != NULL, count_people(config)};
    if (answers[0] + answers[1] > 0)
        return trial_run(queues, answers);
    fprintf(stderr,
            "cuplatch-serve: %s: expected [post], or [modem] with people: "
            "nobody would be called\n",
            path);
    return NO;
}

static int go_on(const struct config *config, const char *path,
                 const struct wishes *wishes)
{
    if (wishes->check) {
        tell(config);
        fflush(stdout);
        return check_files(config, path) == 0 ? DONE : NO;
    }
    if (wishes->new_key || wishes->drop_key)
        return change_keys(config, path, wishes);
    if (wishes->let_in || wishes->new_codes)
        return change_people(config, path, wishes);
    if (wishes->try)
        return try_ways(config, path);
    if (wishes->tell || wishes->ask)
        return say_afar(config, path, wishes);
    return serve(config, wishes->trust_clock);
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
        code = config.problems.errors > 0 ? NO : go_on(&config, path, wishes);
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
        {"let-in", 0, POPT_ARG_NONE, &wishes.let_in, 0,
         "show a code: whoever texts it first is let in, and end", NULL},
        {"new-codes", 0, POPT_ARG_STRING, &wishes.new_codes, 0,
         "make ten codes for somebody's texts, show them once, and end",
         "NAME"},
        {"tell", 0, POPT_ARG_STRING, &wishes.tell, 0,
         "tell a site of the broker the words that follow, and end", "SITE"},
        {"ask", 0, POPT_ARG_STRING, &wishes.ask, 0,
         "ask a site of the broker the words that follow, and end", "SITE"},
        {"try", 0, POPT_ARG_NONE, &wishes.try, 0,
         "have the service send a trial by each way, and say what came of it",
         NULL},
        {"trust-clock", 0, POPT_ARG_NONE, &wishes.trust_clock, 0,
         "take this machine's clock for right though nothing sets it: words "
         "from "
         "afar count, and the history is dated",
         NULL},
        {"version", 0, POPT_ARG_NONE, &wishes.version, 0,
         "say which one this is, and end", NULL},
        POPT_AUTOHELP POPT_TABLEEND};
    poptContext context =
        poptGetContext("cuplatch-serve", argc, argv, options, 0);
    poptSetOtherOptionHelp(context, "[OPTION...] CONFIG [WORDS...]");
    int wrong = poptGetNextOpt(context);
    const char *path = poptGetArg(context);
    bool says = wishes.tell || wishes.ask;
    int code = USAGE;
    wishes.words = (const char *const *)poptGetArgs(context);
    if (wrong < -1)
        fprintf(stderr, "cuplatch-serve: %s: %s\n",
                poptBadOption(context, POPT_BADOPTION_NOALIAS),
                poptStrerror(wrong));
    else if (wishes.version)
        code = puts("cuplatch-serve " CUP_VERSION) == EOF ? OUTSIDE : DONE;
    else if (!path || (!says && wishes.words))
        fprintf(stderr, "cuplatch-serve: expected CONFIG; --help tells more\n");
    else
        code = go(path, &wishes);
    poptFreeContext(context);
    free(wishes.new_key);
    free(wishes.drop_key);
    free(wishes.tell);
    free(wishes.new_codes);
    free(wishes.ask);
    return code;
}
