/* What may be asked, by whom. */
#include "page.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "../common/note.h"
#include "../common/pause.h"
#include "../texts/people.h"
#include "door.h"
#include "files.h"
#include "records.h"
#include "reply.h"
#include "tell.h"
#include "visitors.h"
#include "watch.h"

#define PAUSE_FIRST_S 2
#define PAUSE_MOST_S 60
/* Room is made for so many controllers more. */
#define LIST_STEP 64

struct watched {
    struct page *page;
    struct watch *watch;
    struct link *link;
};

struct page {
    struct event_base *base;
    struct page_config config;
    struct door door;
    struct files *files; /* null: none are built */
    struct visitors *visitors;
    struct records *records; /* null: no history is kept */
    struct words_desk *words;
    struct watched **list;
    size_t count;
    struct event *beat;
    struct event *again;
    int pause_s;
};

/* A question on its way. */
struct asked {
    struct page *page;
    struct evhttp_request *request;
    const struct key *who;
    struct watched *of;
};

/* Answers */

static void get_session(const struct asked *asked)
{
    const struct key *who = door_session(&asked->page->door, asked->request);
    reply_json(asked->request, HTTP_OK,
               json_pack("{s:s?, s:b, s:b, s:o}", "name",
                         who ? who->name : NULL, "steers", who && who->steers,
                         "texts", who && asked->page->config.people, "sites",
                         who ? json_integer((json_int_t)asked->page->count)
                             : json_null()));
}

static void post_session(const struct asked *asked)
{
    door_sign_in(&asked->page->door, asked->request);
}

static void delete_session(const struct asked *asked)
{
    door_sign_out(&asked->page->door, asked->request);
}

static void get_sites(const struct asked *asked)
{
    json_t *sites = json_array();
    for (size_t i = 0; i < asked->page->count; i++) {
        const struct watch *watch = asked->page->list[i]->watch;
        const char *name =
            json_string_value(json_object_get(watch_site(watch), "name"));
        json_t *standing = watch_standing(watch);
        json_array_append_new(
            sites,
            json_pack("{s:s, s:s, s:b, s:I, s:O}", "of", watch_name(watch),
                      "name", name ? name : watch_name(watch), "up",
                      watch_is_up(watch), "since",
                      (json_int_t)watch_turned(watch), "standing",
                      standing ? standing : json_null()));
    }
    reply_json(asked->request, HTTP_OK, json_pack("{s:o}", "sites", sites));
}

static void get_site(const struct asked *asked)
{
    json_t *site = (json_t *)watch_site(asked->of->watch);
    if (site)
        reply_json(asked->request, HTTP_OK, json_incref(site));
    else
        reply_error(asked->request, 503, "the controller is not there");
}

static void get_now(const struct asked *asked)
{
    reply_json(asked->request, HTTP_OK, watch_now(asked->of->watch));
}

static void names_of(const struct asked *asked, struct records_ask *ask)
{
    char text[512];
    char *rest;
    if (!request_query(asked->request, "names", text, sizeof(text)))
        return;
    for (char *word = strtok_r(text, ",", &rest);
         word && ask->name_count < RECORDS_NAMES;
         word = strtok_r(NULL, ",", &rest))
        snprintf(ask->names[ask->name_count++], sizeof(ask->names[0]), "%.31s",
                 word);
}

/* What all questions to the history have. */
static void begin_ask(const struct asked *asked, struct records_ask *ask)
{
    const char *id =
        json_string_value(json_object_get(watch_site(asked->of->watch), "id"));
    *ask = (struct records_ask){.kind = RECORDS_LEVELS};
    snprintf(ask->by, sizeof(ask->by), "%.63s", asked->who->name);
    snprintf(ask->site, sizeof(ask->site), "%.63s",
             id ? id : watch_name(asked->of->watch));
    names_of(asked, ask);
}

static void get_history(const struct asked *asked)
{
    struct records_ask ask;
    char format[8] = "";
    (void)request_query(asked->request, "format", format, sizeof(format));
    if (!asked->page->records) {
        reply_error(asked->request, HTTP_NOTFOUND, "no history is kept");
        return;
    }
    begin_ask(asked, &ask);
    ask.kind = strcmp(format, "csv") == 0 ? RECORDS_SHEET : RECORDS_LEVELS;
    ask.from = request_number(asked->request, "from", 0, INT64_MAX / 4);
    ask.to = request_number(asked->request, "to", INT64_MAX / 4, INT64_MAX / 4);
    ask.most = (int)request_number(asked->request, "points", 1000,
                                   RECORDS_POINTS_MOST);
    if (ask.from >= ask.to || ask.most < 1 || ask.name_count == 0)
        reply_error(asked->request, HTTP_BADREQUEST,
                    "expected names, from and to in s UTC, points up to %d",
                    RECORDS_POINTS_MOST);
    else
        records_answer(asked->page->records, asked->request, &ask);
}

static void get_log(const struct asked *asked)
{
    struct records_ask ask;
    int most =
        (int)request_number(asked->request, "most", 100, RECORDS_EVENTS_MOST);
    if (!asked->page->records) {
        reply_json(asked->request, HTTP_OK,
                   json_pack("{s:o}", "events",
                             watch_events(asked->of->watch, (size_t)most)));
        return;
    }
    begin_ask(asked, &ask);
    ask.kind = RECORDS_LOG;
    ask.before = request_number(asked->request, "before", 0, INT64_MAX / 4);
    ask.most = most;
    records_answer(asked->page->records, asked->request, &ask);
}

/* A browser that comes back says the last that it had itself. */
static void get_follow(const struct asked *asked)
{
    char run[64] = "";
    char last[100];
    int64_t since = request_number(asked->request, "since", -1, INT64_MAX / 4);
    (void)request_query(asked->request, "run", run, sizeof(run));
    snprintf(last, sizeof(last), "%s",
             request_header(asked->request, "Last-Event-ID"));
    char *slash = strchr(last, '/');
    if (slash) {
        *slash = '\0';
        snprintf(run, sizeof(run), "%.63s", last);
        since = strtoll(slash + 1, NULL, 10);
    }
    struct pass pass;
    door_pass(asked->request, asked->who, &pass);
    watch_follow(asked->of->watch, asked->request, &pass, run, since);
}

static void post_tell(const struct asked *asked)
{
    tell(asked->page->words, asked->request, watch_name(asked->of->watch),
         asked->of->link, asked->who->name);
}

static void post_let_in(const struct asked *asked)
{
    char code[7];
    char wrong[240];
    const char *people = asked->page->config.people;
    if (!people)
        reply_error(asked->request, HTTP_NOTFOUND,
                    "nobody can text: the file has no [modem]");
    else if (!people_let_in(people, code, wrong, sizeof(wrong)))
        reply_error(asked->request, 500, "%s", wrong);
    else {
        note("page", asked->who->name,
             "opens the door to whoever texts a code");
        reply_json(asked->request, HTTP_OK,
                   json_pack("{s:s, s:i}", "code", code, "minutes",
                             PEOPLE_LET_IN_S / 60));
    }
}

/* Routes */

enum needs { ANYBODY, LOOKS, STEERS };

struct route {
    const char *path;
    void (*answer)(const struct asked *asked);
    enum evhttp_cmd_type method;
    enum needs needs;
    bool of_one; /* it is about one site */
};

static const struct route routes[] = {
    {"/session", get_session, EVHTTP_REQ_GET, ANYBODY, false},
    {"/session", post_session, EVHTTP_REQ_POST, ANYBODY, false},
    {"/session", delete_session, EVHTTP_REQ_DELETE, ANYBODY, false},
    {"/sites", get_sites, EVHTTP_REQ_GET, LOOKS, false},
    {"/site", get_site, EVHTTP_REQ_GET, LOOKS, true},
    {"/now", get_now, EVHTTP_REQ_GET, LOOKS, true},
    {"/history", get_history, EVHTTP_REQ_GET, LOOKS, true},
    {"/log", get_log, EVHTTP_REQ_GET, LOOKS, true},
    {"/follow", get_follow, EVHTTP_REQ_GET, LOOKS, true},
    {"/tell", post_tell, EVHTTP_REQ_POST, STEERS, true},
    {"/let-in", post_let_in, EVHTTP_REQ_POST, STEERS, false}};

/* By its section's name, or the first; null: there is none. */
static struct watched *find_watched(struct page *page,
                                    struct evhttp_request *request)
{
    char of[64];
    if (!request_query(request, "of", of, sizeof(of)))
        return page->count ? page->list[0] : NULL;
    for (size_t i = 0; i < page->count; i++)
        if (strcmp(watch_name(page->list[i]->watch), of) == 0)
            return page->list[i];
    return NULL;
}

static void follow_route(struct page *page, struct evhttp_request *request,
                         const struct route *route)
{
    struct asked asked = {page, request, NULL, find_watched(page, request)};
    if (route->method != EVHTTP_REQ_GET && !door_believes(&page->door, request))
        return;
    if (route->needs != ANYBODY) {
        asked.who = door_who(&page->door, request);
        if (!asked.who)
            return;
    }
    if (route->needs == STEERS && !asked.who->steers)
        reply_error(request, 403, "this key may look, but not steer");
    else if (!asked.of && route->of_one)
        reply_error(request, HTTP_NOTFOUND, "there is no such site");
    else
        route->answer(&asked);
}

static const struct route *
find_route(const char *path, enum evhttp_cmd_type method, bool *path_known)
{
    *path_known = false;
    for (size_t i = 0; i < sizeof(routes) / sizeof(routes[0]); i++) {
        if (strcmp(routes[i].path, path) != 0)
            continue;
        *path_known = true;
        if (routes[i].method == method)
            return &routes[i];
    }
    return NULL;
}

/* One of the page's own files, for whoever asks. */
static void follow_path(const struct page *page, struct evhttp_request *request,
                        const char *path)
{
    enum evhttp_cmd_type method = evhttp_request_get_command(request);
    bool reads = method == EVHTTP_REQ_GET || method == EVHTTP_REQ_HEAD;
    if (!page->files)
        reply_error(request, HTTP_NOTFOUND,
                    "the page was not built; only programs can ask here");
    else if (!path || !reads || !files_reply(page->files, request, path))
        reply_error(request, HTTP_NOTFOUND, "there is no such page");
}

static void ask(void *self, struct evhttp_request *request)
{
    struct page *page = self;
    const struct evhttp_uri *uri = evhttp_request_get_evhttp_uri(request);
    const char *path = uri ? evhttp_uri_get_path(uri) : NULL;
    bool known = false;
    if (!door_knows_host(&page->door, request))
        return;
    const struct route *route =
        path ? find_route(path, evhttp_request_get_command(request), &known)
             : NULL;
    if (route)
        follow_route(page, request, route);
    else if (known)
        reply_error(request, HTTP_BADMETHOD, "not in this way");
    else
        follow_path(page, request, path);
}

/* Opening */

static void beat(evutil_socket_t fd, short what, void *self)
{
    struct page *page = self;
    (void)fd, (void)what;
    for (size_t i = 0; i < page->count; i++) {
        watch_check(page->list[i]->watch, &page->door);
        watch_beat(page->list[i]->watch);
    }
}

static void listen_again(evutil_socket_t fd, short what, void *self)
{
    struct page *page = self;
    char wrong[300];
    struct timeval pause = {.tv_sec = page->pause_s};
    (void)fd, (void)what;
    if (door_open(&page->door, page->config.keys, wrong, sizeof(wrong)))
        page->visitors = visitors_open(page->base, page->config.listen,
                                       page->config.certificate, ask, page,
                                       wrong, sizeof(wrong));
    if (page->visitors) {
        note("page", NULL, "listens at http%s://%s",
             page->door.secure ? "s" : "", page->config.listen);
        return;
    }
    if (page->pause_s == PAUSE_FIRST_S)
        note("page", NULL, "%s: %s; trying again", page->config.listen, wrong);
    page->pause_s = pause_longer(page->pause_s, PAUSE_MOST_S);
    evtimer_add(page->again, &pause);
}

struct page *page_open(struct event_base *base,
                       const struct page_config *config, const char *history,
                       struct words_desk *words)
{
    char wrong[300];
    struct timeval often = {.tv_sec = WATCH_BEAT_S};
    struct page *page = calloc(1, sizeof(*page));
    if (!page)
        abort();
    page->base = base;
    page->config = *config;
    page->pause_s = PAUSE_FIRST_S;
    page->door = (struct door){.names = config->names,
                               .listen = config->listen,
                               .secure = config->certificate != NULL};
    page->files = files_open(config->files, wrong, sizeof(wrong));
    if (!page->files)
        note("page", NULL, "%s", wrong);
    if (history)
        page->records = records_open(base, history);
    page->words = words;
    page->beat = event_new(base, -1, EV_PERSIST, beat, page);
    page->again = evtimer_new(base, listen_again, page);
    if (!page->beat || event_add(page->beat, &often) != 0 || !page->again)
        abort();
    listen_again(-1, 0, page);
    return page;
}

static void close_watched(struct watched *watched)
{
    watch_close(watched->watch);
    free(watched);
}

void page_close(struct page *page)
{
    if (page->records)
        records_close(page->records);
    for (size_t i = 0; i < page->count; i++)
        close_watched(page->list[i]);
    free(page->list);
    if (page->visitors)
        visitors_close(page->visitors);
    if (page->files)
        files_close(page->files);
    event_free(page->beat);
    event_free(page->again);
    free(page);
}

/* Controllers */

static int64_t since(void *self, const char *id, char *run)
{
    (void)id;
    return watch_since(((struct watched *)self)->watch, run, 64);
}

static void heard(void *self, const json_t *line)
{
    watch_heard(((struct watched *)self)->watch, line);
}

static void up(void *self, bool there)
{
    watch_up(((struct watched *)self)->watch, there);
}

struct link_ear page_ear(struct page *page, const char *name, size_t events)
{
    struct watched *watched = malloc(sizeof(*watched));
    struct watched **list = page->list;
    if (page->count % LIST_STEP == 0)
        list =
            realloc(list, (page->count + LIST_STEP) * sizeof(struct watched *));
    if (!watched || !list)
        abort();
    *watched =
        (struct watched){.page = page, .watch = watch_open(name, events)};
    page->list = list;
    page->list[page->count++] = watched;
    return (struct link_ear){since, heard, NULL, up, watched};
}

void page_link(struct page *page, const struct link_ear *ear, struct link *link)
{
    (void)page;
    ((struct watched *)ear->self)->link = link;
}
