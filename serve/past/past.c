/* Two halves: one in the event loop, that never waits; one in a thread. What
 * they share is a queue and how far events are on the disk, behind one lock. */
#include "past.h"

#include <errno.h>
#include <pthread.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <time.h>
#include <unistd.h>

#include "../../history/outbox.h"
#include "../../history/read.h"
#include "../common/note.h"
#include "../common/pause.h"
#include "taker.h"

/* So much is lost at the most when the machine loses its power. */
#define COMMIT_S 1
/* Minutes in the making are written so often. */
#define SAVE_S 60
/* After a failure it is tried again so much later, and twice that each time. */
#define PAUSE_FIRST_S 2
#define PAUSE_MOST_S 60
#define FOLD_EVERY_S 600
/* Messages that arrived and are not yet noted; the rest is noted after they
 * were sent once more. */
#define SENT_MOST 1024

/* A line, or the going of a controller where it is null. */
struct message {
    struct one *one;
    json_t *line;
    int64_t at;
};

/* A controller. Of the loop: `seen`, how far its events were handed over, and
 * `gap`: nothing more is, until it has been asked again. Of the thread:
 * `taker`, and `taken`, the next that has one. Behind the lock: the next of
 * all, and what was `refused` in an `hour`.
 */
struct one {
    struct past *past;
    struct one *next;
    const char *name;
    struct link *link;
    bool afar; /* it has a broker already */
    char id[64];
    struct history_seen seen;
    bool gap;
    int64_t hour;
    int refused;
    struct taker *taker;
    struct one *taken;
};

struct past {
    struct past_config config;
    struct one *first; /* of the loop */
    int wake[2];       /* a byte from the thread: ask them again */
    struct event *woken;
    pthread_t thread;
    pthread_mutex_t lock;
    pthread_cond_t more;
    struct message *queue;
    size_t waiting;
    uint64_t left_out; /* lines that found no room */
    bool ends;
    bool sends;
    int64_t sent[SENT_MOST]; /* of the outbox */
    size_t sent_count;
    json_t *known; /* by a site's id: [run, number] of what is on the disk */
    /* of the thread */
    struct one *taken;       /* those who have been heard */
    struct history *history; /* null: it cannot be had */
    bool begun;              /* a transaction is under way, */
    int64_t begun_s;         /* since when */
    int64_t again_s;
    int64_t folded_s;
    int64_t saved_s;
    int pause_s;
    struct stat file; /* as it was opened */
    char said[300];   /* what was told last of a failure */
};

/* The loop's half */

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

static void know(struct past *past, const char *id,
                 const struct history_seen *seen)
{
    json_object_set_new(
        past->known, id,
        json_pack("[s, I]", seen->run, (json_int_t)seen->number));
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

static void heard(void *self, const json_t *line)
{
    struct one *one = self;
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
    if (past->waiting == PAST_WAITING_MOST ||
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

/* The thread's half */

static void fail(struct past *past, const char *what)
{
    if (strcmp(past->said, what) != 0)
        note("history", NULL, "%s: %s; trying again", past->config.file, what);
    snprintf(past->said, sizeof(past->said), "%s", what);
    past->again_s = (int64_t)time(NULL) + past->pause_s;
    past->pause_s = pause_longer(past->pause_s, PAUSE_MOST_S);
}

static void forget_takers(struct past *past)
{
    for (struct one *one = past->taken; one; one = one->taken) {
        taker_close(one->taker);
        one->taker = NULL;
    }
    past->taken = NULL;
}

static void take_known(void *self, const struct history_site_row *row)
{
    struct past *past = self;
    struct history_seen seen = history_seen(past->history, row->site);
    know(past, row->id, &seen);
}

static void open_file(struct past *past)
{
    char said[4400];
    struct history *history =
        history_open(past->config.file, HISTORY_WRITE, said, sizeof(said));
    if (*said && history)
        note("history", NULL, "%s %s", past->config.file, said);
    if (!history) {
        fail(past, said);
        return;
    }
    pthread_mutex_lock(&past->lock);
    past->history = history;
    json_object_clear(past->known);
    (void)history_sites(history, take_known, past);
    pthread_mutex_unlock(&past->lock);
    past->said[0] = '\0';
    past->pause_s = PAUSE_FIRST_S;
    if (stat(past->config.file, &past->file) != 0)
        past->file = (struct stat){.st_ino = 0};
}

/* Nothing of the transaction is there. A file that is broken is set aside. */
static void give_up(struct past *past)
{
    char what[300];
    char said[4400] = "";
    bool broken = history_is_broken(past->history);
    snprintf(what, sizeof(what), "%s", history_wrong(past->history));
    history_roll_back(past->history);
    forget_takers(past);
    history_close(past->history);
    past->history = NULL;
    past->begun = false;
    fail(past, what);
    if (broken && history_set_aside(past->config.file, said, sizeof(said)))
        note("history", NULL, "%s %s", past->config.file, said);
}

static void note_kept(struct past *past)
{
    char id[64];
    struct history_seen seen;
    pthread_mutex_lock(&past->lock);
    for (const struct one *one = past->taken; one; one = one->taken)
        if (taker_seen(one->taker, id, sizeof(id), &seen))
            know(past, id, &seen);
    pthread_mutex_unlock(&past->lock);
}

static void begin_with(struct past *past, struct one *one)
{
    one->taker = taker_open(past->history);
    one->taken = past->taken;
    past->taken = one;
    if (past->sends && !one->afar)
        taker_sends(one->taker);
}

static bool take(struct past *past, const struct message *message)
{
    struct one *one = message->one;
    if (!past->begun) {
        past->begun = history_begin(past->history);
        past->begun_s = (int64_t)time(NULL);
    }
    if (!one->taker)
        begin_with(past, one);
    if (!past->begun)
        return false;
    return message->line ? taker_line(one->taker, message->line, message->at)
                         : taker_gone(one->taker);
}

static bool save(struct past *past, int64_t now)
{
    bool done = true;
    if (now - past->saved_s < SAVE_S && !past->ends)
        return true;
    past->saved_s = now;
    for (const struct one *one = past->taken; one; one = one->taken)
        done = taker_save(one->taker) && done;
    return done;
}

static bool commit(struct past *past)
{
    if (past->begun &&
        (!save(past, (int64_t)time(NULL)) || !history_commit(past->history)))
        return false;
    if (past->begun)
        note_kept(past);
    past->begun = false;
    return true;
}

static void fold(struct past *past, int64_t now)
{
    bool more = false;
    if (!past->history || now - past->folded_s < FOLD_EVERY_S)
        return;
    if (!commit(past) ||
        !history_fold(past->history, now - past->config.minutes_s,
                      past->config.at_most, &more))
        give_up(past);
    past->folded_s = more ? now - FOLD_EVERY_S + COMMIT_S : now;
}

/* Less is no file of SQLite. */
#define FILE_LEAST 512

/* Whether the file that is written is the one that others see. */
static bool is_there(const struct past *past)
{
    struct stat file;
    return stat(past->config.file, &file) == 0 &&
           file.st_ino == past->file.st_ino &&
           file.st_dev == past->file.st_dev && file.st_size >= FILE_LEAST;
}

/* It was removed, moved or emptied while it was in use: what it had is gone,
 * and another is begun. */
static void begin_another(struct past *past)
{
    note(
        "history", NULL,
        "%s: was taken away, or emptied, while it was in use; another is begun",
        past->config.file);
    history_roll_back(past->history);
    forget_takers(past);
    history_close(past->history);
    past->history = NULL;
    past->begun = false;
    past->again_s = 0;
}

/* A file that could not be had is tried again; what came meanwhile is asked for
 * again. False while there is none, and of what came before there was. */
static bool has_file(struct past *past, int64_t now)
{
    if (past->history && !is_there(past))
        begin_another(past);
    if (past->history)
        return true;
    if (now < past->again_s)
        return false;
    open_file(past);
    if (past->history)
        (void)!write(past->wake[1], "", 1);
    return false;
}

/* What arrived is noted in the outbox, with whatever else is written. */
static bool note_sent(struct past *past)
{
    int64_t sent[SENT_MOST];
    pthread_mutex_lock(&past->lock);
    size_t count = past->sent_count;
    memcpy(sent, past->sent, count * sizeof(*sent));
    past->sent_count = 0;
    pthread_mutex_unlock(&past->lock);
    if (count > 0 && !past->begun) {
        past->begun = history_begin(past->history);
        past->begun_s = (int64_t)time(NULL);
    }
    for (size_t i = 0; i < count; i++)
        if (!past->begun || !outbox_sent(past->history, sent[i]))
            return false;
    return true;
}

/* What came, one after the other, and it is on the disk within a second. */
static bool take_all(struct past *past, const struct message *list,
                     size_t count, int64_t now)
{
    for (size_t i = 0; i < count; i++)
        if (!take(past, &list[i]))
            return false;
    if (!note_sent(past))
        return false;
    return (!past->ends && now - past->begun_s < COMMIT_S) || commit(past);
}

static void work(struct past *past, const struct message *list, size_t count)
{
    int64_t now = (int64_t)time(NULL);
    if (!has_file(past, now))
        return;
    if (!take_all(past, list, count, now))
        give_up(past);
    fold(past, now);
}

static size_t wait_for_more(struct past *past, struct message *list, bool *ends)
{
    struct timespec until;
    clock_gettime(CLOCK_REALTIME, &until);
    until.tv_sec += COMMIT_S;
    pthread_mutex_lock(&past->lock);
    while (past->waiting == 0 && !past->ends &&
           pthread_cond_timedwait(&past->more, &past->lock, &until) == 0)
        ;
    size_t count = past->waiting;
    memcpy(list, past->queue, count * sizeof(*list));
    past->waiting = 0;
    *ends = past->ends;
    uint64_t left_out = past->left_out;
    past->left_out = 0;
    pthread_mutex_unlock(&past->lock);
    if (left_out > 0) {
        note("history", NULL, "the disk is too slow: %llu lines were left out",
             (unsigned long long)left_out);
        (void)!write(past->wake[1], "", 1);
    }
    return count;
}

static void *live(void *self)
{
    struct past *past = self;
    struct message *list = calloc(PAST_WAITING_MOST, sizeof(*list));
    bool ends = false;
    if (!list)
        abort();
    while (!ends) {
        size_t count = wait_for_more(past, list, &ends);
        work(past, list, count);
        for (size_t i = 0; i < count; i++)
            json_decref(list[i].line);
    }
    free(list);
    return NULL;
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
    past->pause_s = PAUSE_FIRST_S;
    pthread_mutex_init(&past->lock, NULL);
    pthread_cond_init(&past->more, NULL);
    open_file(past);
    past->woken =
        event_new(base, past->wake[0], EV_READ | EV_PERSIST, ask_again, past);
    if (!past->woken || event_add(past->woken, NULL) != 0 ||
        pthread_create(&past->thread, NULL, live, past) != 0)
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

void past_close(struct past *past)
{
    pthread_mutex_lock(&past->lock);
    past->ends = true;
    pthread_cond_signal(&past->more);
    pthread_mutex_unlock(&past->lock);
    pthread_join(past->thread, NULL);
    forget_takers(past);
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
