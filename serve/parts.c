#include "parts.h"

#include <stdlib.h>

#include "alerts/post.h"
#include "broker/broker.h"
#include "common/note.h"
#include "link/here.h"
#include "page/page.h"
#include "page/watch.h"
#include "past/past.h"
#include "texts/texts.h"
#include "words/words.h"

#define EARS_MOST 5

struct ears {
    const struct parts *parts;
    const char *name;
    bool afar;
    bool refused; /* it calls itself what is of this machine */
    const struct link *link;
    struct link_ear past, page, broker; /* where they are there */
    struct link_ear list[EARS_MOST];
    size_t count;
};

/* The first one says from where its events go on. */
static int64_t since(void *self, const char *id, char *run)
{
    const struct ears *ears = self;
    const struct link_ear *first = &ears->list[0];
    *run = '\0';
    return ears->count > 0 ? first->since(first->self, id, run) : -1;
}

/* Whose it is: what comes from elsewhere as a site of this machine is not
 * heard. */
static bool is_somebody(struct ears *ears, const json_t *line)
{
    struct here *here = ears->parts->here;
    const char *id =
        json_string_value(json_object_get(json_object_get(line, "site"), "id"));
    if (!ears->afar) {
        if (id)
            here_is(here, ears->name, id);
        return true;
    }
    bool was = ears->refused;
    ears->refused = here_has(here, ears->name);
    if (ears->refused && !was)
        note("afar", ears->name,
             "a broker tells of a site of this name, which is of this "
             "machine: not heard");
    return !ears->refused;
}

static void heard(void *self, const json_t *line)
{
    struct ears *ears = self;
    if (!is_somebody(ears, line))
        return;
    for (size_t i = 0; i < ears->count; i++)
        ears->list[i].heard(ears->list[i].self, line);
}

static void answered(void *self, const json_t *line)
{
    const struct ears *ears = self;
    words_answered(ears->parts->words, ears->link, line);
}

static void up(void *self, bool there)
{
    const struct ears *ears = self;
    if (ears->afar && here_has(ears->parts->here, ears->name))
        return;
    for (size_t i = 0; i < ears->count; i++)
        ears->list[i].up(ears->list[i].self, there);
}

static struct link_ear add(struct ears *ears, struct link_ear ear)
{
    ears->list[ears->count++] = ear;
    return ear;
}

struct ears *ears_open(const struct parts *parts, const char *name, bool afar)
{
    struct ears *ears = calloc(1, sizeof(*ears));
    if (!ears)
        abort();
    ears->parts = parts;
    ears->name = name;
    ears->afar = afar;
    if (parts->past)
        ears->past = add(ears, past_ear(parts->past, name, afar));
    if (parts->page)
        ears->page =
            add(ears, page_ear(parts->page, name,
                               afar ? WATCH_EVENTS_AFAR : WATCH_EVENTS));
    if (parts->post)
        add(ears, post_ear(parts->post, name));
    if (parts->texts)
        add(ears, texts_ear(parts->texts, name));
    if (parts->broker && !afar)
        ears->broker = add(ears, broker_ear(parts->broker, name));
    return ears;
}

void ears_close(struct ears *ears)
{
    free(ears);
}

/* What is of this machine, and whom its going is told to. */
static void look_at_own(const struct parts *parts, struct alerts *alerts)
{
    static const struct alerts_own modem = {
        "modem", "the modem has not been ready", "the modem is ready again",
        "Look at its power, its card and its line."};
    static const struct alerts_own broker = {
        "broker", "the broker has not answered", "the broker answers again",
        "Look at its machine and its network; pumps go on by themselves."};
    static const struct alerts_own history = {
        "history", "the history has not been written",
        "the history is written again",
        "Make room on the disk, or change the card; pumps go on by "
        "themselves."};
    if (parts->texts)
        alerts_own(alerts, &modem, texts_are_ready(parts->texts));
    if (parts->broker)
        alerts_own(alerts, &broker, broker_is_there(parts->broker));
    if (parts->past)
        alerts_own(alerts, &history, past_is_written(parts->past));
}

void parts_look(const struct parts *parts, int64_t now)
{
    struct alerts *const tellers[] = {
        parts->post ? post_alerts(parts->post) : NULL,
        parts->texts ? texts_alerts(parts->texts) : NULL};
    for (size_t i = 0; i < sizeof(tellers) / sizeof(tellers[0]); i++)
        if (tellers[i]) {
            look_at_own(parts, tellers[i]);
            alerts_look(tellers[i], now);
        }
}

struct link_ear ears_ear(struct ears *ears)
{
    return (struct link_ear){since, heard, answered, up, ears};
}

void ears_link(struct ears *ears, struct link *link)
{
    ears->link = link;
    if (ears->past.self)
        past_link(ears->parts->past, &ears->past, link);
    if (ears->page.self)
        page_link(ears->parts->page, &ears->page, link);
    if (ears->parts->texts && !ears->afar)
        texts_link(ears->parts->texts, ears->name, link);
    if (ears->broker.self)
        broker_link(ears->parts->broker, &ears->broker, link);
}
