#include "distant.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "../broker/topics.h"
#include "../common/clean.h"
#include "../common/note.h"

struct distant {
    struct link way;
    char id[64];
    struct distant_mouth mouth;
    struct link_ear ear;
    bool here;  /* somebody speaks for it */
    bool up;    /* and that was told */
    bool begun; /* it has said what it is, and that was told */
    json_t *site;
    json_t *early; /* what came before it was up */
    char run[64];  /* of the last event that is known */
    int64_t number;
    bool misses; /* events, that it was asked for */
    int64_t asked_s;
    int asked;
};

static void hear(const struct distant *distant, const char *kind, json_t *value)
{
    json_t *line = json_pack("{s:O}", kind, value);
    distant->ear.heard(distant->ear.self, line);
    json_decref(line);
}

/* Events that are missing */

static void ask_again(struct distant *distant)
{
    distant->asked_s = (int64_t)time(NULL);
    distant->asked++;
    distant->mouth.say(
        distant->mouth.self, distant->id, topic_below(TOPIC_AGAIN),
        json_pack("{s:I}", "since", (json_int_t)distant->number));
}

static void miss(struct distant *distant)
{
    if (distant->misses)
        return;
    distant->misses = true;
    distant->asked = 0;
    ask_again(distant);
}

static void hear_event(struct distant *distant, json_t *event, int64_t gone)
{
    const char *run = json_string_value(json_object_get(event, "run"));
    if (gone > 0) {
        json_t *count = json_integer((json_int_t)gone);
        hear(distant, "gone", count);
        json_decref(count);
    }
    snprintf(distant->run, sizeof(distant->run), "%s", run ? run : "");
    distant->number = json_integer_value(json_object_get(event, "number"));
    hear(distant, "event", event);
}

/* One that is said once more tells which one came before it; so does the end
 * of them. */
static void take_missed(struct distant *distant, const json_t *missed)
{
    json_t *event = json_object_get(missed, "event");
    int64_t after = json_integer_value(json_object_get(missed, "after"));
    if (after != distant->number)
        return; /* for somebody else, or known */
    distant->asked = 0;
    distant->asked_s = (int64_t)time(NULL);
    if (event)
        hear_event(distant, event,
                   json_integer_value(json_object_get(missed, "gone")));
    else
        distant->misses = false;
}

static void take_event(struct distant *distant, json_t *event)
{
    int64_t number = json_integer_value(json_object_get(event, "number"));
    const char *run = json_string_value(json_object_get(event, "run"));
    bool same = !run || strcmp(run, distant->run) == 0;
    if (number == distant->number + 1) {
        distant->misses = false;
        hear_event(distant, event, 0);
    } else if (distant->misses && distant->asked >= DISTANT_ASK_MOST) {
        note("afar", distant->id, "events before number %lld are gone",
             (long long)number);
        distant->misses = false;
        hear_event(distant, event, number - distant->number - 1);
    } else if (number > distant->number || !same)
        miss(distant);
}

/* Coming and going */

/* What is known of its events goes on, whether it is there or not: who tells of
 * it may have some that nobody has heard. */
static void begin(struct distant *distant)
{
    distant->number =
        distant->ear.since(distant->ear.self, distant->id, distant->run);
    hear(distant, "site", distant->site);
    distant->begun = true;
    distant->misses = false;
    miss(distant);
}

static void set_up(struct distant *distant, bool up)
{
    if (distant->up != up)
        distant->ear.up(distant->ear.self, up);
    distant->up = distant->way.there = up;
    if (!up || json_object_size(distant->early) == 0)
        return;
    hear(distant, "now", distant->early);
    json_object_clear(distant->early);
}

/* Whoever speaks for it may have been away, too, and not heard the question. */
static void take_here(struct distant *distant, const char *text, size_t length)
{
    distant->here = length >= 3 && strncmp(text, "yes", 3) == 0;
    if (!distant->begun)
        return;
    set_up(distant, distant->here);
    distant->misses = false;
    miss(distant);
}

static void take_site(struct distant *distant, json_t *site)
{
    if (!json_is_object(site) || !distant->ear.heard)
        return;
    json_decref(distant->site);
    distant->site = json_incref(site);
    /* whose it is says the topic, and nothing that is said there */
    json_object_set_new(distant->site, "id", json_string(distant->id));
    begin(distant);
    set_up(distant, distant->here);
}

/* How it is now */

static void take_now(struct distant *distant, json_t *now)
{
    const char *kind;
    json_t *value;
    if (distant->up) {
        hear(distant, "now", now);
        return;
    }
    json_object_foreach(now, kind, value)
    {
        json_t *old = json_object_get(distant->early, kind);
        if (json_is_object(old) && json_is_object(value))
            json_object_update(old, value);
        else
            json_object_set(distant->early, kind, value);
    }
}

static json_t *now_of(const struct topic_row *row, const char *name,
                      json_t *value)
{
    if (!row->named)
        return json_pack("{s:O}", row->member, value);
    if (!row->beside)
        return json_pack("{s:{s:O}}", row->member, name, value);
    json_t *own = json_copy(value);
    json_t *beside = json_incref(json_object_get(value, row->beside));
    json_object_del(own, row->beside);
    return json_pack("{s:{s:o}, s:{s:o?}}", row->member, name, own, row->beside,
                     name, beside);
}

/* Whether the site has a thing of that name; before it has said what it has,
 * so many names wait. */
static bool is_thing(const struct distant *distant, const char *name)
{
    size_t i;
    json_t *thing;
    if (!distant->site) {
        size_t names = 0;
        const char *kind;
        json_t *value;
        json_object_foreach(distant->early, kind, value)
        {
            names += json_object_size(value);
        }
        return names < DISTANT_EARLY_MOST;
    }
    json_array_foreach(json_object_get(distant->site, "things"), i, thing)
    {
        const char *own = json_string_value(json_object_get(thing, "name"));
        if (own && strcmp(own, name) == 0)
            return true;
    }
    return false;
}

/* What carries a part of `now`. */
static void take_part(struct distant *distant, const struct topic_row *row,
                      const char *name, json_t *value)
{
    if (!row->member ||
        (row->named && (!clean_is_name(name) || !is_thing(distant, name))))
        return;
    json_t *now = now_of(row, name, value);
    if (now)
        take_now(distant, now);
    json_decref(now);
}

/* What was said to it goes by numbers here. */
static void take_answer(struct distant *distant, json_t *answer)
{
    const char *id = json_string_value(json_object_get(answer, "id"));
    size_t length = strlen(distant->mouth.identity);
    if (!id || strncmp(id, distant->mouth.identity, length) != 0 ||
        id[length] != '.')
        return; /* somebody else's */
    if (!json_object_get(answer, "done"))
        json_object_set_new(answer, "done", json_false());
    json_object_set_new(answer, "id",
                        json_integer(strtoll(id + length + 1, NULL, 10)));
    distant->ear.answered(distant->ear.self, answer);
}

/* What counts once it is known what it is. */
static void take_told(struct distant *distant, enum topic which, json_t *value)
{
    if (which == TOPIC_EVENTS && distant->begun)
        take_event(distant, value);
    else if (which == TOPIC_MISSED && distant->begun)
        take_missed(distant, value);
    else if (which == TOPIC_ANSWERS && distant->up)
        take_answer(distant, value);
}

void distant_take(struct distant *distant, const char *below, const char *text,
                  size_t length)
{
    const char *name = "";
    enum topic which = topic_of(below, &name);
    if (which == TOPIC_HERE) {
        take_here(distant, text, length);
        return;
    }
    json_t *value = which < TOPIC_COUNT ? clean_read(text, length) : NULL;
    if (!value)
        return; /* cleared, or nothing that a site says */
    if (which == TOPIC_SITE)
        take_site(distant, value);
    else if (topic_rows[which].way == TOPIC_TELLS)
        take_told(distant, which, value);
    else
        take_part(distant, &topic_rows[which], name, value);
    json_decref(value);
}

void distant_lost(struct distant *distant)
{
    distant->here = false;
    if (distant->begun)
        set_up(distant, false);
    distant->misses = false;
}

void distant_look(struct distant *distant)
{
    int64_t now = (int64_t)time(NULL);
    if (!distant->begun || !distant->misses ||
        now - distant->asked_s < DISTANT_ASK_S)
        return;
    if (distant->asked < DISTANT_ASK_MOST)
        ask_again(distant);
}

/* As a line */

static void say(struct link *way, json_t *line)
{
    struct distant *distant = (struct distant *)way;
    char id[64];
    snprintf(id, sizeof(id), "%.40s.%lld", distant->mouth.identity,
             (long long)json_integer_value(json_object_get(line, "id")));
    json_object_set_new(line, "id", json_string(id));
    json_object_set_new(line, "t", json_integer((json_int_t)time(NULL)));
    distant->mouth.say(distant->mouth.self, distant->id,
                       topic_below(TOPIC_WORDS), line);
}

static void begin_anew(struct link *way)
{
    struct distant *distant = (struct distant *)way;
    if (!distant->begun)
        return;
    set_up(distant, false);
    set_up(distant, true); /* as one that came */
    begin(distant);
    set_up(distant, distant->here);
    distant->mouth.again(distant->mouth.self);
}

struct distant *distant_open(const char *id, const struct distant_mouth *mouth)
{
    struct distant *distant = calloc(1, sizeof(*distant));
    if (!distant)
        abort();
    distant->way = (struct link){false, say, begin_anew};
    snprintf(distant->id, sizeof(distant->id), "%s", id);
    distant->mouth = *mouth;
    distant->early = json_object();
    distant->number = -1;
    return distant;
}

void distant_close(struct distant *distant)
{
    if (distant->begun)
        set_up(distant, false);
    json_decref(distant->site);
    json_decref(distant->early);
    free(distant);
}

void distant_hear(struct distant *distant, const struct link_ear *ear)
{
    distant->ear = *ear;
}

const char *distant_id(const struct distant *distant)
{
    return distant->id;
}

struct link *distant_link(struct distant *distant)
{
    return &distant->way;
}
