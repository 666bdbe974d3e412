/* The loop's half, which never waits. */
#include "past.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

#include "../common/note.h"
#include "inside.h"

/* With the lock held: how far the events of a site are on the disk. */
static struct history_seen known_of(const struct past *past, const char *id)
{
    struct history_seen seen = {"", -1};
    const json_t *known = json_object_get(past->known, id);
    if (known) {
        snprintf(seen.run, sizeof(seen.run), "%s",
                 json_string_value(json_array_get(known, 0)));
        seen.number = json_integer_value(json_array_get(known, 1));
    }
    return seen;
}

static void push(struct past *past, struct one *one, const json_t *line)
{
    if (one->gap)
        return;
    pthread_mutex_lock(&past->lock);
    one->gap = past->waiting == PAST_WAITING_MOST;
    if (one->gap)
        past->left_out++;
    else
        past->queue[past->waiting++] = (struct message){
            one, json_incref((json_t *)line), (int64_t)time(NULL)};
    pthread_cond_signal(&past->more);
    pthread_mutex_unlock(&past->lock);
}

static void look_up(struct one *one)
{
    pthread_mutex_lock(&one->past->lock);
    one->seen = known_of(one->past, one->id);
    pthread_mutex_unlock(&one->past->lock);
}

static int64_t since(void *self, const char *id, char *run)
{
    struct one *one = self;
    if (strcmp(one->id, id) != 0) { /* the first time, or another site */
        snprintf(one->id, sizeof(one->id), "%s", id);
        look_up(one);
    }
    snprintf(run, sizeof(one->seen.run), "%s", one->seen.run);
    return one->seen.number;
}

/* Whether it is known when a line is of: by itself, or by our clock. */
static bool is_dated(const struct past *past, const json_t *line)
{
    const json_t *now = json_object_get(line, "now");
    const json_t *of = now ? now : json_object_get(line, "event");
    return !of || taker_has_time(of) || past_has_clock(past);
}

/* It is asked for again once the clock is set. */
static void leave_for_later(struct past *past, struct one *one)
{
    one->gap = true;
    pthread_mutex_lock(&past->lock);
    bool first = !past->undated;
    past->undated = true;
    pthread_mutex_unlock(&past->lock);
    if (first)
        note("history", one->name,
             "nothing is kept while this machine's clock is not set by the "
             "world's; start with --trust-clock if it is right");
}

static void heard(void *self, const json_t *line)
{
    struct one *one = self;
    if (!one->gap && !is_dated(one->past, line))
        leave_for_later(one->past, one);
    const json_t *number =
        json_object_get(json_object_get(line, "event"), "number");
    const char *run = json_string_value(
        json_object_get(json_object_get(line, "site"), "run"));
    const json_t *gone = json_object_get(line, "gone");
    if (json_is_integer(gone))
        note("history", one->name, "%lld events are no longer known",
             (long long)json_integer_value(gone));
    push(one->past, one, line);
    if (one->gap)
        return;
    if (run)
        snprintf(one->seen.run, sizeof(one->seen.run), "%s", run);
    if (json_is_integer(number))
        one->seen.number = json_integer_value(number);
}

static void up(void *self, bool there)
{
    struct one *one = self;
    if (there)
        one->gap = false;
    else
        push(one->past, one, NULL);
}

struct link_ear past_ear(struct past *past, const char *name, bool afar)
{
    struct one *one = malloc(sizeof(*one));
    if (!one)
        abort();
    *one = (struct one){
        .past = past, .name = name, .afar = afar, .seen = {"", -1}};
    pthread_mutex_lock(&past->lock);
    one->next = past->first;
    past->first = one;
    pthread_mutex_unlock(&past->lock);
    return (struct link_ear){since, heard, NULL, up, one};
}

/* As it came; where it is no UTF-8, since it was cut within a letter, with a ?
 * for each byte that is not plain. */
static json_t *whole_letters(const char *text)
{
    char plain[240];
    size_t used = 0;
    json_t *whole = json_string(text);
    for (; !whole && *text && used < sizeof(plain); text++) {
        plain[used] = *text;
        if ((unsigned char)*text > 127)
            plain[used] = '?';
        used++;
    }
    return whole ? whole : json_stringn(plain, used);
}

/* With the lock held. */
static void keep_refusal(struct past *past, struct one *one,
                         const struct refusal *refusal)
{
    int64_t now = (int64_t)time(NULL);
    if (one->hour != now / 3600)
        one->refused = 0;
    one->hour = now / 3600;
    if (past->waiting == PAST_WAITING_MOST || !past_has_clock(past) ||
        one->refused++ >= PAST_REFUSALS_MOST)
        return;
    past->queue[past->waiting++] = (struct message){
        one,
        json_pack("{s:{s:o, s:s, s:o}}", "refused", "by",
                  whole_letters(refusal->by), "reason", refusal->reason, "why",
                  whole_letters(refusal->why)),
        now};
    pthread_cond_signal(&past->more);
}

void past_refuse(struct past *past, const struct refusal *refusal)
{
    note(refusal->part, refusal->by, "%s", refusal->why);
    if (!past)
        return;
    pthread_mutex_lock(&past->lock);
    for (struct one *one = past->first; one; one = one->next)
        if (refusal->site ? strcmp(one->name, refusal->site) == 0 : !one->afar)
            keep_refusal(past, one, refusal);
    pthread_mutex_unlock(&past->lock);
}

void past_link(struct past *past, const struct link_ear *ear, struct link *link)
{
    (void)past;
    ((struct one *)ear->self)->link = link;
}

/* Everything from the last that is on the disk is asked for again. */
static void ask_again(evutil_socket_t fd, short what, void *self)
{
    struct past *past = self;
    char bytes[16];
    (void)what;
    (void)!read(fd, bytes, sizeof(bytes));
    for (struct one *one = past->first; one; one = one->next) {
        look_up(one);
        one->gap = true; /* what is under way of the old line does not count */
        if (one->link)
            link_again(one->link);
    }
}

struct past *past_open(struct event_base *base,
                       const struct past_config *config)
{
    struct past *past = calloc(1, sizeof(*past));
    if (!past ||
        !(past->queue = calloc(PAST_WAITING_MOST, sizeof(*past->queue))) ||
        pipe(past->wake) != 0)
        abort();
    past->config = *config;
    past->known = json_object();
    past->pause_s = PAST_PAUSE_FIRST_S;
    pthread_mutex_init(&past->lock, NULL);
    pthread_cond_init(&past->more, NULL);
    past_open_file(past);
    past->woken =
        event_new(base, past->wake[0], EV_READ | EV_PERSIST, ask_again, past);
    if (!past->woken || event_add(past->woken, NULL) != 0 ||
        pthread_create(&past->thread, NULL, past_keep, past) != 0)
        abort();
    return past;
}

void past_sends(struct past *past)
{
    past->sends = true;
}

void past_sent(struct past *past, int64_t message)
{
    pthread_mutex_lock(&past->lock);
    if (past->sent_count < SENT_MOST)
        past->sent[past->sent_count++] = message;
    pthread_mutex_unlock(&past->lock);
}

bool past_is_written(struct past *past)
{
    pthread_mutex_lock(&past->lock);
    bool written = !past->fails;
    pthread_mutex_unlock(&past->lock);
    return written;
}

void past_close(struct past *past)
{
    pthread_mutex_lock(&past->lock);
    past->ends = true;
    pthread_cond_signal(&past->more);
    pthread_mutex_unlock(&past->lock);
    pthread_join(past->thread, NULL);
    past_forget(past);
    history_close(past->history);
    event_free(past->woken);
    close(past->wake[0]);
    close(past->wake[1]);
    pthread_mutex_destroy(&past->lock);
    pthread_cond_destroy(&past->more);
    for (struct one *one = past->first; one;) {
        struct one *next = one->next;
        free(one);
        one = next;
    }
    json_decref(past->known);
    free(past->queue);
    free(past);
}
