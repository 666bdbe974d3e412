#include "parts.h"

#include <stdlib.h>

#include "broker.h"
#include "page/page.h"
#include "page/watch.h"
#include "past.h"
#include "post.h"
#include "texts.h"
#include "words.h"

#define EARS_MOST 5

struct ears {
    const struct parts *parts;
    const char *name;
    bool afar;
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

static void heard(void *self, const json_t *line)
{
    const struct ears *ears = self;
    for (size_t i = 0; i < ears->count; i++)
        ears->list[i].heard(ears->list[i].self, line);
}

static void answered(void *self, const json_t *line)
{
    words_answered(((const struct ears *)self)->parts->words, line);
}

static void up(void *self, bool there)
{
    const struct ears *ears = self;
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

struct link_ear ears_ear(struct ears *ears)
{
    return (struct link_ear){since, heard, answered, up, ears};
}

void ears_link(struct ears *ears, struct link *link)
{
    if (ears->past.self)
        past_link(ears->parts->past, &ears->past, link);
    if (ears->page.self)
        page_link(ears->parts->page, &ears->page, link);
    if (ears->parts->texts && !ears->afar)
        texts_link(ears->parts->texts, ears->name, link);
    if (ears->broker.self)
        broker_link(ears->parts->broker, &ears->broker, link);
}
