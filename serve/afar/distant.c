#include "distant.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "../common/clean.h"
#include "../common/note.h"

struct far {
    struct link way;
    char id[64];
    struct far_mouth mouth;
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

static void hear(const struct far *far, const char *kind, json_t *value)
{
    json_t *line = json_pack("{s:O}", kind, value);
    far->ear.heard(far->ear.self, line);
    json_decref(line);
}

/* Events that are missing */

static void ask_again(struct far *far)
{
    far->asked_s = (int64_t)time(NULL);
    far->asked++;
    far->mouth.say(far->mouth.self, far->id, "again",
                   json_pack("{s:I}", "since", (json_int_t)far->number));
}

static void miss(struct far *far)
{
    if (far->misses)
        return;
    far->misses = true;
    far->asked = 0;
    ask_again(far);
}

static void hear_event(struct far *far, json_t *event, int64_t gone)
{
    const char *run = json_string_value(json_object_get(event, "run"));
    if (gone > 0) {
        json_t *count = json_integer((json_int_t)gone);
        hear(far, "gone", count);
        json_decref(count);
    }
    snprintf(far->run, sizeof(far->run), "%s", run ? run : "");
    far->number = json_integer_value(json_object_get(event, "number"));
    hear(far, "event", event);
}

/* One that is said once more tells which one came before it; so does the end
 * of them. */
static void take_missed(struct far *far, const json_t *missed)
{
    json_t *event = json_object_get(missed, "event");
    int64_t after = json_integer_value(json_object_get(missed, "after"));
    if (after != far->number)
        return; /* for somebody else, or known */
    far->asked = 0;
    far->asked_s = (int64_t)time(NULL);
    if (event)
        hear_event(far, event,
                   json_integer_value(json_object_get(missed, "gone")));
    else
        far->misses = false;
}

static void take_event(struct far *far, json_t *event)
{
    int64_t number = json_integer_value(json_object_get(event, "number"));
    const char *run = json_string_value(json_object_get(event, "run"));
    bool same = !run || strcmp(run, far->run) == 0;
    if (number == far->number + 1) {
        far->misses = false;
        hear_event(far, event, 0);
    } else if (far->misses && far->asked >= FAR_ASK_MOST) {
        note("afar", far->id, "events before number %lld are gone",
             (long long)number);
        far->misses = false;
        hear_event(far, event, number - far->number - 1);
    } else if (number > far->number || !same)
        miss(far);
}

/* Coming and going */

/* What is known of its events goes on, whether it is there or not: who tells of
 * it may have some that nobody has heard. */
static void begin(struct far *far)
{
    far->number = far->ear.since(far->ear.self, far->id, far->run);
    hear(far, "site", far->site);
    far->begun = true;
    far->misses = false;
    miss(far);
}

static void set_up(struct far *far, bool up)
{
    if (far->up != up)
        far->ear.up(far->ear.self, up);
    far->up = far->way.there = up;
    if (!up || json_object_size(far->early) == 0)
        return;
    hear(far, "now", far->early);
    json_object_clear(far->early);
}

/* Whoever speaks for it may have been away, too, and not heard the question. */
static void take_here(struct far *far, const char *text, size_t length)
{
    far->here = length >= 3 && strncmp(text, "yes", 3) == 0;
    if (!far->begun)
        return;
    set_up(far, far->here);
    far->misses = false;
    miss(far);
}

static void take_site(struct far *far, json_t *site)
{
    if (!json_is_object(site) || !far->ear.heard)
        return;
    json_decref(far->site);
    far->site = json_incref(site);
    /* whose it is says the topic, and nothing that is said there */
    json_object_set_new(far->site, "id", json_string(far->id));
    begin(far);
    set_up(far, far->here);
}

/* How it is now */

static void take_now(struct far *far, json_t *now)
{
    const char *kind;
    json_t *value;
    if (far->up) {
        hear(far, "now", now);
        return;
    }
    json_object_foreach(now, kind, value)
    {
        json_t *old = json_object_get(far->early, kind);
        if (json_is_object(old) && json_is_object(value))
            json_object_update(old, value);
        else
            json_object_set(far->early, kind, value);
    }
}

static json_t *now_of(const char *kind, const char *name, json_t *value)
{
    if (strcmp(kind, "outputs") != 0)
        return json_pack("{s:{s:O}}", kind, name, value);
    json_t *pump = json_copy(value);
    json_t *out = json_incref(json_object_get(value, "out"));
    json_object_del(pump, "out");
    return json_pack("{s:{s:o}, s:{s:o?}}", "pumps", name, pump, "out", name,
                     out);
}

/* Whether the site has a thing of that name; before it has said what it has,
 * so many names wait. */
static bool is_thing(const struct far *far, const char *name)
{
    size_t i;
    json_t *thing;
    if (!far->site) {
        size_t names = 0;
        const char *kind;
        json_t *value;
        json_object_foreach(far->early, kind, value)
        {
            names += json_object_size(value);
        }
        return names < FAR_EARLY_MOST;
    }
    json_array_foreach(json_object_get(far->site, "things"), i, thing)
    {
        const char *own = json_string_value(json_object_get(thing, "name"));
        if (own && strcmp(own, name) == 0)
            return true;
    }
    return false;
}

/* "levels/header". */
static void take_named(struct far *far, const char *below, json_t *value)
{
    static const char *const kinds[] = {"levels", "outputs", "duties", "days"};
    const char *slash = strchr(below, '/');
    if (!slash || !clean_is_name(slash + 1) || !is_thing(far, slash + 1))
        return;
    for (size_t i = 0; i < sizeof(kinds) / sizeof(kinds[0]); i++) {
        size_t length = strlen(kinds[i]);
        if ((size_t)(slash - below) != length ||
            strncmp(below, kinds[i], length) != 0)
            continue;
        json_t *now = now_of(kinds[i], slash + 1, value);
        if (now)
            take_now(far, now);
        json_decref(now);
    }
}

/* What was said to it goes by numbers here. */
static void take_answer(struct far *far, json_t *answer)
{
    const char *id = json_string_value(json_object_get(answer, "id"));
    size_t length = strlen(far->mouth.identity);
    if (!id || strncmp(id, far->mouth.identity, length) != 0 ||
        id[length] != '.')
        return; /* somebody else's */
    if (!json_object_get(answer, "done"))
        json_object_set_new(answer, "done", json_false());
    json_object_set_new(answer, "id",
                        json_integer(strtoll(id + length + 1, NULL, 10)));
    far->ear.answered(far->ear.self, answer);
}

/* What counts once it is known what it is. True: it was such. */
static bool take_said(struct far *far, const char *below, json_t *value)
{
    bool event = strcmp(below, "events") == 0;
    bool missed = strcmp(below, "missed") == 0;
    bool answer = strncmp(below, "answers", 7) == 0;
    if (event && far->begun)
        take_event(far, value);
    else if (missed && far->begun)
        take_missed(far, value);
    else if (answer && far->up)
        take_answer(far, value);
    return event || missed || answer;
}

static void take_standing(struct far *far, json_t *value)
{
    json_t *now = json_pack("{s:O}", "standing", value);
    take_now(far, now);
    json_decref(now);
}

void far_take(struct far *far, const char *below, const char *text,
              size_t length)
{
    if (strcmp(below, "here") == 0) {
        take_here(far, text, length);
        return;
    }
    json_t *value = clean_read(text, length);
    if (!value)
        return; /* cleared, or nothing that a site says */
    if (strcmp(below, "site") == 0)
        take_site(far, value);
    else if (strcmp(below, "standing") == 0)
        take_standing(far, value);
    else if (!take_said(far, below, value))
        take_named(far, below, value);
    json_decref(value);
}

void far_lost(struct far *far)
{
    far->here = false;
    if (far->begun)
        set_up(far, false);
    far->misses = false;
}

void far_look(struct far *far)
{
    int64_t now = (int64_t)time(NULL);
    if (!far->begun || !far->misses || now - far->asked_s < FAR_ASK_S)
        return;
    if (far->asked < FAR_ASK_MOST)
        ask_again(far);
}

/* As a line */

static void say(struct link *way, json_t *line)
{
    struct far *far = (struct far *)way;
    char id[64];
    snprintf(id, sizeof(id), "%.40s.%lld", far->mouth.identity,
             (long long)json_integer_value(json_object_get(line, "id")));
    json_object_set_new(line, "id", json_string(id));
    json_object_set_new(line, "t", json_integer((json_int_t)time(NULL)));
    far->mouth.say(far->mouth.self, far->id, "words", line);
}

static void begin_anew(struct link *way)
{
    struct far *far = (struct far *)way;
    if (!far->begun)
        return;
    set_up(far, false);
    set_up(far, true); /* as one that came */
    begin(far);
    set_up(far, far->here);
    far->mouth.again(far->mouth.self);
}

struct far *far_open(const char *id, const struct far_mouth *mouth)
{
    struct far *far = calloc(1, sizeof(*far));
    if (!far)
        abort();
    far->way = (struct link){false, say, begin_anew};
    snprintf(far->id, sizeof(far->id), "%s", id);
    far->mouth = *mouth;
    far->early = json_object();
    far->number = -1;
    return far;
}

void far_close(struct far *far)
{
    if (far->begun)
        set_up(far, false);
    json_decref(far->site);
    json_decref(far->early);
    free(far);
}

void far_hear(struct far *far, const struct link_ear *ear)
{
    far->ear = *ear;
}

const char *far_id(const struct far *far)
{
    return far->id;
}

struct link *far_link(struct far *far)
{
    return &far->way;
}
