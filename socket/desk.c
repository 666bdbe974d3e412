/* Lines of peers, and what followers are told. */
#include "desk.h"

#include <jansson.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/random.h>

#include "../grammar/text.h"
#include "../ports/common/json.h"
#include "cuplatch/console.h"
#include "cuplatch/say.h"
#include "desk_inside.h"
#include "view.h"

/* How deep a line may nest, and the longest id of one. */
#define DEEP_MOST 4
#define ID_MOST 64
/* Events go to a follower that has less than this waiting. */
#define EAGER 65536u
#define NOW_EVERY_MS 1000
/* No event is nearly so long as a text. */
#define EVENT_MOST 2048

/* The changes of a pass from what followers saw last, as a text: most saw the
 * same. */
struct changes {
    json_t *now;
    const json_t *from;
    char *text;
};

/* Following */

static uint64_t oldest(const struct desk *desk)
{
    uint64_t oldest = desk->number > RING ? desk->number - RING : 0;
    while (oldest < desk->number && !desk->ring[oldest % RING])
        oldest++; /* of what came before we were started not all is here */
    return oldest;
}

/* It is the same for all until a setting changes. */
static const char *text_of_site(struct desk *desk)
{
    if (desk->site_text)
        return desk->site_text;
    json_t *line = json_pack("{s:o}", "site",
                             view_site(desk->site, &desk->about, desk->run));
    desk->site_text = json_dumps(line, CUP_JSON_FORMAT);
    json_decref(line);
    if (!desk->site_text)
        abort();
    return desk->site_text;
}

/* Where it goes on: what comes next, or what it has not had. */
static void follow(struct desk *desk, int peer, const json_t *from)
{
    struct guest *guest = &desk->guests[peer];
    const char *run = json_string_value(json_object_get(from, "run"));
    const json_t *since = json_object_get(from, "since");
    json_decref(guest->seen);
    *guest = (struct guest){
        .follows = true, .next = desk->number, .done = guest->done};
    peers_say(desk->peers, peer, text_of_site(desk));
    if (!json_is_integer(since))
        return;
    json_int_t first = json_integer_value(since);
    first += first < INT64_MAX;
    bool same = desk->goes_on || (run && strcmp(run, desk->run) == 0);
    if (!same || first < 0)
        first = 0;
    if ((uint64_t)first > desk->number)
        first = (json_int_t)desk->number;
    if ((uint64_t)first < oldest(desk)) {
        desk_say(desk, peer,
                 json_pack("{s:I}", "gone",
                           (json_int_t)(oldest(desk) - (uint64_t)first)));
        first = (json_int_t)oldest(desk);
    }
    guest->next = (uint64_t)first;
}

static void say_event(const struct desk *desk, int peer, const char *event)
{
    char text[EVENT_MOST + 16];
    snprintf(text, sizeof(text), "{\"event\":%s}", event);
    peers_say(desk->peers, peer, text);
}

static void give_events(struct desk *desk, int peer)
{
    struct guest *guest = &desk->guests[peer];
    if (guest->next < oldest(desk)) {
        desk_say(desk, peer,
                 json_pack("{s:I}", "gone",
                           (json_int_t)(oldest(desk) - guest->next)));
        guest->next = oldest(desk);
    }
    while (guest->follows && guest->next < desk->number &&
           peers_waiting(desk->peers, peer) < EAGER)
        say_event(desk, peer, desk->ring[guest->next++ % RING]);
}

static const char *text_of_changes(struct changes *changes, json_t *seen)
{
    if (changes->text && changes->from == seen)
        return changes->text;
    json_t *json =
        seen ? view_changes(seen, changes->now) : json_incref(changes->now);
    json_t *line = json_pack("{s:o}", "now", json);
    free(changes->text);
    changes->text = json_dumps(line, CUP_JSON_FORMAT);
    changes->from = seen;
    json_decref(line);
    if (!changes->text)
        abort();
    return changes->text;
}

/* UTC, where there is a clock. */
static void add_utc(const struct desk *desk, json_t *json)
{
    uint32_t clock_s = cup_site_clock_s(desk->site);
    if (clock_s > 0)
        json_object_set_new(
            json, "utc",
            json_integer((json_int_t)clock_s - (json_int_t)desk->ahead_s));
}

static json_t *now_of(const struct desk *desk)
{
    json_t *now = view_now(desk->site, desk->samples);
    add_utc(desk, now);
    return now;
}

/* `now` is never queued: a peer that still reads the last gets the next once
 * it has. */
static void give_now(struct desk *desk, int peer, struct changes *changes,
                     uint64_t now_ms)
{
    struct guest *guest = &desk->guests[peer];
    if (!guest->follows || peers_waiting(desk->peers, peer) > 0 ||
        (guest->seen && now_ms - guest->seen_ms < NOW_EVERY_MS))
        return;
    if (!changes->now)
        changes->now = now_of(desk);
    peers_say(desk->peers, peer, text_of_changes(changes, guest->seen));
    json_decref(guest->seen);
    guest->seen = json_incref(changes->now);
    guest->seen_ms = now_ms;
}

/* Lines */

/* By how much a letter outside of texts goes deeper. */
static int step_of(char letter)
{
    if (letter == '[' || letter == '{')
        return 1;
    return letter == ']' || letter == '}' ? -1 : 0;
}

/* Whether a line nests too deep: what is deep is slow, and none of ours is. */
static bool is_deep(const char *text)
{
    int depth = 0;
    bool quoted = false;
    for (; *text && depth <= DEEP_MOST; text++) {
        if (quoted && *text == '\\' && text[1])
            text++;
        else if (*text == '"')
            quoted = !quoted;
        else if (!quoted)
            depth += step_of(*text);
    }
    return depth > DEEP_MOST;
}

/* It is said back with each answer: a number, or a short text. */
static bool is_good_id(const json_t *id)
{
    return !id || json_is_number(id) ||
           (json_is_string(id) && json_string_length(id) <= ID_MOST);
}

static void take(void *self, int peer, char *text)
{
    struct desk *desk = self;
    json_error_t error;
    if (is_deep(text)) {
        desk_refuse(desk, peer, NULL, "a line nests at most 4 deep", -1);
        return;
    }
    json_t *line = json_loads(text, JSON_REJECT_DUPLICATES, &error);
    const json_t *told = json_object_get(line, "tell");
    const json_t *asked = json_object_get(line, "ask");
    const json_t *from = json_object_get(line, "follow");
    if (!line)
        desk_refuse(desk, peer, NULL, text_mend(error.text), -1);
    else if (!is_good_id(json_object_get(line, "id")))
        desk_refuse(desk, peer, NULL,
                    "id: expected a number, or a text of at most 64 bytes", -1);
    else if (json_is_array(told))
        desk_tell(desk, peer, line, told);
    else if (json_is_array(asked))
        desk_ask(desk, peer, line, asked);
    else if (json_is_object(from))
        follow(desk, peer, from);
    else
        desk_refuse(
            desk, peer, line,
            "expected {\"ask\": [...]}, {\"tell\": [...]} or {\"follow\": "
            "{}}",
            -1);
    json_decref(line);
}

static void gone(void *self, int peer)
{
    struct guest *guest = &((struct desk *)self)->guests[peer];
    json_decref(guest->seen);
    json_decref(guest->done);
    *guest = (struct guest){false};
}

static void name_run(struct desk *desk)
{
    unsigned char chance[8] = {0};
    if (getrandom(chance, sizeof(chance), 0) != (ssize_t)sizeof(chance))
        abort();
    for (size_t i = 0; i < sizeof(chance); i++)
        snprintf(desk->run + 2 * i, 3, "%02x", chance[i]);
}

struct desk *desk_open(const char *path, const struct cup_site *site,
                       const struct view_about *about, char *wrong, size_t size)
{
    struct desk *desk = calloc(1, sizeof(*desk));
    if (!desk)
        abort();
    desk->samples =
        calloc(site->plan->sensor_count + 1u, sizeof(*desk->samples));
    if (!desk->samples)
        abort();
    struct peers_ear ear = {take, gone, desk};
    desk->site = site;
    desk->about = *about;
    name_run(desk);
    desk->peers = peers_open(path, &ear, wrong, size);
    if (desk->peers)
        return desk;
    free(desk->samples);
    free(desk);
    return NULL;
}

void desk_close(struct desk *desk)
{
    peers_close(desk->peers);
    for (int i = 0; i < RING; i++)
        free(desk->ring[i]);
    free(desk->site_text);
    free(desk->samples);
    free(desk);
}

static const char *keep(struct desk *desk, json_t *event)
{
    char **slot = &desk->ring[desk->number++ % RING];
    free(*slot);
    *slot = json_dumps(event, CUP_JSON_FORMAT);
    json_decref(event);
    if (!*slot || strlen(*slot) > EVENT_MOST)
        abort();
    return *slot;
}

void desk_recall(struct desk *desk, const char *line)
{
    json_t *json = json_loads(line, 0, NULL);
    const json_t *number = json_object_get(json, "number");
    desk->goes_on = true;
    if (!json_is_integer(number) || json_integer_value(number) < 0 ||
        strlen(line) > EVENT_MOST) {
        json_decref(json);
        return;
    }
    desk->number = (uint64_t)json_integer_value(number);
    keep(desk, json);
}

void desk_ahead(struct desk *desk, int32_t ahead_s)
{
    desk->ahead_s = ahead_s;
}

const char *desk_event(struct desk *desk, const struct cup_event *event)
{
    json_t *json = cup_json_event(desk->site->plan, event);
    json_object_set_new(json, "number", json_integer((json_int_t)desk->number));
    json_object_set_new(json, "t",
                        json_integer((json_int_t)cup_site_clock_s(desk->site)));
    add_utc(desk, json);
    const char *duty = view_duty(desk->site, event);
    if (duty)
        json_object_set_new(json, "duty", json_string(duty));
    bool steered =
        event->kind == CUP_KIND_MODE || event->kind == CUP_KIND_SETTING;
    if (steered && *desk->by)
        json_object_set_new(json, "by", json_string(desk->by));
    if (steered && *desk->by && *desk->user)
        json_object_set_new(json, "user", json_string(desk->user));
    if (event->kind == CUP_KIND_SETTING) {
        free(desk->site_text);
        desk->site_text = NULL;
    }
    if (desk->cause)
        json_object_set_new(json, "cause", json_string(desk->cause));
    desk->cause = NULL;
    return keep(desk, json);
}

void desk_sampled(struct desk *desk, cup_index sensor)
{
    desk->samples[sensor]++;
}

void desk_cause(struct desk *desk, const char *cause)
{
    desk->cause = cause;
}

static void give_answers(struct desk *desk, int peer)
{
    json_t *done = desk->guests[peer].done;
    desk->guests[peer].done = NULL;
    for (size_t i = 0; i < json_array_size(done); i++)
        desk_say(desk, peer, json_incref(json_array_get(done, i)));
    json_decref(done);
}

void desk_passed(struct desk *desk, uint32_t site_ms, uint64_t now_ms,
                 bool kept)
{
    struct changes changes = {NULL, NULL, NULL};
    desk->site_ms = site_ms;
    desk->by[0] = '\0';
    for (int i = 0; i < PEERS_MOST; i++) {
        if (kept)
            give_answers(desk, i);
        give_now(desk, i, &changes, now_ms);
        if (desk->guests[i].follows)
            give_events(desk, i);
    }
    json_decref(changes.now);
    free(changes.text);
}

size_t desk_wait(const struct desk *desk, struct pollfd *fds)
{
    return peers_wait(desk->peers, fds);
}

void desk_turn(struct desk *desk, uint32_t site_ms, uint64_t now_ms)
{
    desk->site_ms = site_ms;
    peers_turn(desk->peers, now_ms);
}
