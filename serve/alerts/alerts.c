#include "alerts.h"

#include <errno.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

#include "../common/note.h"
#include "../common/private.h"
#include "gone.h"
#include "ranks.h"
#include "trial.h"

/* After a start of a controller, nothing stands any more of what it does not
 * say by then. */
#define BOOT_S 120

/* A controller: how far its events were looked at, since when it is gone, when
 * it started, 0 once that is dealt with, and whether it said last that nothing
 * stands there. */
struct alert_sender {
    struct alerts *alerts;
    struct alert_sender *next;
    const char *name;
    char id[64];
    char called[120];
    char run[64];
    int64_t number;
    int64_t gone_s; /* 0: it is there */
    int64_t booted_s;
    bool rests;
    json_t *says; /* what its file wants said, by its alerts */
};

/* What stands */

static void key_of(const struct alert_sender *sender, const char *thing,
                   char key[200])
{
    snprintf(key, 200, "%s|%s", sender->id, thing);
}

/* "kale_bed" is "kale bed" to people. */
static json_t *label_of(const char *of, const char *site)
{
    char label[120];
    snprintf(label, sizeof(label), "%s", *of ? of : site);
    for (char *at = label; *at; at++)
        if (*at == '_')
            *at = ' ';
    return json_string(label);
}

/* Tells of a thing, by what is kept of it. */
static void tell(const struct alert_sender *sender, const json_t *thing,
                 const json_t *event, bool over)
{
    const struct alerts *alerts = sender->alerts;
    json_t *alert = json_copy((json_t *)event);
    json_object_set_new(alert, "site", json_string(sender->id));
    json_object_set_new(alert, "site_name", json_string(sender->called));
    json_object_set_new(alert, "run", json_string(sender->run));
    json_object_set_new(alert, "heard", json_integer((json_int_t)time(NULL)));
    json_object_set_new(alert, "label",
                        label_of(event_text(event, "of"), sender->called));
    json_object_set(alert, "what", json_object_get(event, "why"));
    json_object_set(alert, "rank", json_object_get(thing, "rank"));
    json_object_set(alert, "since", json_object_get(thing, "since"));
    json_object_set(alert, "thing", json_object_get(thing, "thing"));
    json_object_set_new(alert, "to_do",
                        json_string(over ? "" : event_text(thing, "to_do")));
    json_object_set_new(alert, "over", json_boolean(over));
    alerts->take(alerts->self, alert);
}

static json_t *thing_of(const struct ranked *is, const json_t *event,
                        const char *say)
{
    int64_t now = (int64_t)time(NULL);
    const json_t *utc = json_object_get(event, "utc");
    return json_pack("{s:s, s:s, s:I, s:s, s:O, s:I}", "thing", is->thing,
                     "rank", rank_word(is->rank), "since",
                     json_is_integer(utc) ? json_integer_value(utc)
                                          : (json_int_t)now,
                     "to_do", *say ? say : is->to_do, "event", (json_t *)event,
                     "due", (json_int_t)now + is->settles);
}

/* Whether what stands is to be told once more: an alert when the controller
 * says it again, for it knows its repeat. */
static bool is_again(const json_t *thing, const json_t *event)
{
    int64_t told = json_integer_value(json_object_get(thing, "told"));
    return strcmp(event_text(event, "kind"), "alert") == 0 ||
           strcmp(event_text(event, "kind"), "lock") == 0 ||
           (told > 0 && (int64_t)time(NULL) - told >= ALERTS_AGAIN_S);
}

static void come_as(struct alert_sender *sender, const char *key,
                    const struct ranked *is, const json_t *event)
{
    struct alerts *alerts = sender->alerts;
    const char *say = event_text(sender->says, event_text(event, "of"));
    json_t *thing = json_object_get(alerts->standing, key);
    alerts->changed = true;
    if (!thing) {
        thing = thing_of(is, event, say);
        json_object_set_new(alerts->standing, key, thing);
    } else if (!is_again(thing, event))
        return;
    else
        json_object_set(thing, "event", (json_t *)event);
    if (is->settles > 0 && !json_object_get(thing, "told"))
        return;
    json_object_set_new(thing, "told", json_integer((json_int_t)time(NULL)));
    tell(sender, thing, event, false);
}

/* It is over: whoever was told of it is told that. */
static void go(struct alert_sender *sender, const char *key,
               const json_t *event)
{
    struct alerts *alerts = sender->alerts;
    json_t *thing = json_incref(json_object_get(alerts->standing, key));
    if (!thing)
        return;
    json_object_del(alerts->standing, key);
    alerts->changed = true;
    if (json_object_get(thing, "told"))
        tell(sender, thing, event, true);
    json_decref(thing);
}

/* Events */

/* What is told once more of days ago calls nobody. */
static bool is_old(const json_t *event)
{
    const json_t *utc = json_object_get(event, "utc");
    return json_is_integer(utc) &&
           (int64_t)time(NULL) - json_integer_value(utc) > ALERTS_OLD_S;
}

static void take_ranked(struct alert_sender *sender, const json_t *event)
{
    char key[200];
    const struct ranked is = rank_of(event);
    key_of(sender, is.thing, key);
    if (is.how == RANK_COMES && !is_old(event))
        come_as(sender, key, &is, event);
    else if (is.how == RANK_GOES)
        go(sender, key, event);
    else if (is.how == RANK_ONCE && !is_old(event)) {
        json_t *thing = thing_of(&is, event, "");
        tell(sender, thing, event, false);
        json_decref(thing);
    }
}

static void take_event(struct alert_sender *sender, const json_t *event)
{
    int64_t number = json_integer_value(json_object_get(event, "number"));
    if (number <= sender->number)
        return;
    sender->number = number;
    sender->rests = false;
    if (strcmp(event_text(event, "kind"), "boot") == 0)
        sender->booted_s = (int64_t)time(NULL);
    take_ranked(sender, event);
}

/* What the site says of itself */

static void take_says(struct alert_sender *sender, const json_t *site)
{
    size_t i;
    json_t *thing;
    json_object_clear(sender->says);
    json_array_foreach(json_object_get(site, "things"), i, thing)
    {
        json_t *say = json_object_get(thing, "say");
        if (json_is_string(say))
            json_object_set(sender->says, event_text(thing, "name"), say);
    }
}

static void take_site(struct alert_sender *sender, const json_t *site)
{
    const char *id = event_text(site, "id");
    const char *name = event_text(site, "name");
    const char *run = event_text(site, "run");
    snprintf(sender->id, sizeof(sender->id), "%s", *id ? id : sender->name);
    snprintf(sender->called, sizeof(sender->called), "%s",
             *name ? name : sender->name);
    if (*run && strcmp(run, sender->run) != 0) {
        snprintf(sender->run, sizeof(sender->run), "%s", run);
        sender->number = -1;
    }
    take_says(sender, site);
}

/* Whether a thing is of that site, and one that a controller can end. */
static bool is_of(const char *key, const char *id)
{
    size_t length = strlen(id);
    return strncmp(key, id, length) == 0 && key[length] == '|' &&
           strcmp(key + length + 1, "gone") != 0;
}

static void end_all(struct alert_sender *sender)
{
    const char *key;
    json_t *thing;
    void *next;
    json_t *event = json_pack("{s:s, s:s}", "kind", "over", "why",
                              "it is no more since the controller started");
    json_object_foreach_safe(sender->alerts->standing, next, key, thing)
    {
        if (!is_of(key, sender->id))
            continue;
        json_object_set(event, "of",
                        json_object_get(json_object_get(thing, "event"), "of"));
        go(sender, key, event);
    }
    json_decref(event);
    sender->booted_s = 0;
}

/* It started again a while ago, and says that nothing stands. */
static void look_at_start(struct alert_sender *sender, int64_t now)
{
    if (sender->booted_s > 0 && sender->rests &&
        now - sender->booted_s >= BOOT_S)
        end_all(sender);
}

static void take_now(struct alert_sender *sender, const json_t *now)
{
    const json_t *standing = json_object_get(now, "standing");
    sender->rests = json_is_array(standing) && json_array_size(standing) == 0;
}

static void heard(void *self, const json_t *line)
{
    struct alert_sender *sender = self;
    const json_t *event = json_object_get(line, "event");
    const json_t *site = json_object_get(line, "site");
    const json_t *now = json_object_get(line, "now");
    if (json_is_object(site))
        take_site(sender, site);
    if (json_is_object(event))
        take_event(sender, event);
    if (json_is_object(now))
        take_now(sender, now);
}

/* Coming and going of controllers, and of what is of this machine */

static const struct ranked gone = {
    RANK_HELP, RANK_COMES, "gone",
    "Look at its machine, its power and its network: nobody knows what runs.",
    0};

/* By its name in the file: its id may not be known yet. */
static void key_of_gone(const struct alert_sender *sender, char key[200])
{
    snprintf(key, 200, "%s|%s", sender->name, gone.thing);
}

static void up(void *self, bool there)
{
    struct alert_sender *sender = self;
    char key[200];
    if (!there) {
        sender->rests = false;
        sender->gone_s = (int64_t)time(NULL);
        return;
    }
    sender->gone_s = 0;
    key_of_gone(sender, key);
    json_t *event = back_event(NULL, "the controller answers again");
    go(sender, key, event);
    json_decref(event);
}

static void look_at_gone(struct alert_sender *sender, int64_t now)
{
    char key[200];
    key_of_gone(sender, key);
    if (sender->gone_s == 0 || now - sender->gone_s < ALERTS_GONE_S ||
        json_object_get(sender->alerts->standing, key))
        return;
    json_t *event =
        gone_event(NULL, "the controller has not answered", sender->gone_s);
    come_as(sender, key, &gone, event);
    json_decref(event);
}

/* This machine's own: such a key has no site before it. */
void alerts_own(struct alerts *alerts, const struct alerts_own *own, bool there)
{
    char key[200];
    struct ranked is = {RANK_HELP, RANK_COMES, "", own->to_do, ALERTS_GONE_S};
    snprintf(is.thing, sizeof(is.thing), "%.60s gone", own->of);
    key_of(alerts->own, is.thing, key);
    if (there != (json_object_get(alerts->standing, key) != NULL))
        return;
    json_t *event = there ? back_event(own->of, own->back)
                          : gone_event(own->of, own->gone, (int64_t)time(NULL));
    if (there)
        go(alerts->own, key, event);
    else
        come_as(alerts->own, key, &is, event);
    json_decref(event);
}

/* What was gone before a start, and not for long, counts anew. */
static void forget_own(struct alerts *alerts)
{
    const char *key;
    json_t *thing;
    void *next;
    json_object_foreach_safe(alerts->standing, next, key, thing)
    {
        if (*key == '|' && !json_object_get(thing, "told"))
            json_object_del(alerts->standing, key);
    }
}

/* What has settled */

static struct alert_sender *sender_of(struct alerts *alerts, const char *key)
{
    for (struct alert_sender *one = alerts->first; one; one = one->next)
        if (is_of(key, one->id))
            return one;
    return NULL;
}

static void look_at_things(struct alerts *alerts, int64_t now)
{
    const char *key;
    json_t *thing;
    json_object_foreach(alerts->standing, key, thing)
    {
        struct alert_sender *sender = sender_of(alerts, key);
        if (!sender || json_object_get(thing, "told") ||
            json_integer_value(json_object_get(thing, "due")) > now)
            continue;
        json_object_set_new(thing, "told", json_integer((json_int_t)now));
        alerts->changed = true;
        tell(sender, thing, json_object_get(thing, "event"), false);
    }
}

static void keep(struct alerts *alerts)
{
    alerts->changed = false;
    char *text = json_dumps(alerts->standing, JSON_INDENT(1));
    if (!text)
        abort();
    if (!private_put(alerts->path, text))
        note("alerts", NULL, "%s: %s; a start forgets what stands",
             alerts->path, strerror(errno));
    free(text);
}

void alerts_look(struct alerts *alerts, int64_t now)
{
    for (struct alert_sender *one = alerts->first; one; one = one->next) {
        look_at_gone(one, now);
        look_at_start(one, now);
    }
    look_at_things(alerts, now);
    if (trial_is_wanted(alerts->beside))
        alerts->take(alerts->self, trial_alert());
    if (alerts->changed)
        keep(alerts);
}

/* Opening */

static int64_t since(void *self, const char *id, char *run)
{
    const struct alert_sender *sender = self;
    (void)id;
    snprintf(run, sizeof(sender->run), "%s", sender->run);
    return sender->number;
}

static struct alert_sender *add_sender(struct alerts *alerts, const char *name,
                                       const char *id, const char *called)
{
    struct alert_sender *sender = malloc(sizeof(*sender));
    if (!sender)
        abort();
    *sender = (struct alert_sender){.alerts = alerts,
                                    .next = alerts->first,
                                    .name = name,
                                    .number = -1,
                                    .says = json_object()};
    snprintf(sender->id, sizeof(sender->id), "%s", id);
    snprintf(sender->called, sizeof(sender->called), "%s", called);
    alerts->first = sender;
    return sender;
}

void alerts_open(struct alerts *alerts, alerts_take *take, void *self,
                 const char *beside)
{
    char host[64] = "";
    char machine[80];
    (void)gethostname(host, sizeof(host) - 1);
    snprintf(machine, sizeof(machine), "The machine %s", host);
    *alerts = (struct alerts){.take = take, .self = self, .beside = beside};
    alerts->own = add_sender(alerts, "", "", machine);
    snprintf(alerts->path, sizeof(alerts->path), "%s.standing", beside);
    alerts->standing = json_load_file(alerts->path, 0, NULL);
    if (!json_is_object(alerts->standing)) {
        json_decref(alerts->standing);
        alerts->standing = json_object();
    }
    forget_own(alerts);
}

void alerts_close(struct alerts *alerts)
{
    if (alerts->changed)
        keep(alerts);
    for (struct alert_sender *sender = alerts->first; sender;) {
        struct alert_sender *next = sender->next;
        json_decref(sender->says);
        free(sender);
        sender = next;
    }
    json_decref(alerts->standing);
}

struct link_ear alerts_ear(struct alerts *alerts, const char *name)
{
    struct alert_sender *sender = add_sender(alerts, name, name, name);
    sender->gone_s = (int64_t)time(NULL);
    return (struct link_ear){since, heard, NULL, up, sender};
}
