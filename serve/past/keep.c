/* The thread's half: what came goes into the file, which may be slow, full,
 * broken or gone. */
#include <errno.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

#include "../../history/outbox.h"
#include "../../history/read.h"
#include "../common/note.h"
#include "../common/pause.h"
#include "inside.h"

/* So much is lost at the most when the machine loses its power. */
#define COMMIT_S 1
/* Minutes in the making are written so often. */
#define SAVE_S 60
#define PAUSE_MOST_S 60
#define FOLD_EVERY_S 600

static void know(struct past *past, const char *id,
                 const struct history_seen *seen)
{
    json_object_set_new(
        past->known, id,
        json_pack("[s, I]", seen->run, (json_int_t)seen->number));
}

static void set_fails(struct past *past, bool fails)
{
    pthread_mutex_lock(&past->lock);
    past->fails = fails;
    pthread_mutex_unlock(&past->lock);
}

static void fail(struct past *past, const char *what)
{
    set_fails(past, true);
    if (strcmp(past->said, what) != 0)
        note("history", NULL, "%s: %s; trying again", past->config.file, what);
    snprintf(past->said, sizeof(past->said), "%s", what);
    past->again_s = (int64_t)time(NULL) + past->pause_s;
    past->pause_s = pause_longer(past->pause_s, PAUSE_MOST_S);
}

void past_forget(struct past *past)
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

void past_open_file(struct past *past)
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
    past->pause_s = PAST_PAUSE_FIRST_S;
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
    past_forget(past);
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
    if (past->begun) {
        note_kept(past);
        set_fails(past, false);
    }
    past->begun = false;
    return true;
}

static void fold(struct past *past, int64_t now)
{
    bool more = false;
    if (!past->history || now - past->folded_s < FOLD_EVERY_S)
        return;
    /* by a clock that is not set all of it may look old */
    int64_t before = past_has_clock(past) ? now - past->config.minutes_s : 0;
    if (!commit(past) ||
        !history_fold(past->history, before, past->config.at_most, &more))
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
    past_forget(past);
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
    past_open_file(past);
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

/* The clock was set: what waited for it is asked for. */
static void look_at_clock(struct past *past)
{
    pthread_mutex_lock(&past->lock);
    bool again = past->undated && past_has_clock(past);
    past->undated = past->undated && !again;
    pthread_mutex_unlock(&past->lock);
    if (again)
        (void)!write(past->wake[1], "", 1);
}

static void work(struct past *past, const struct message *list, size_t count)
{
    int64_t now = (int64_t)time(NULL);
    look_at_clock(past);
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

void *past_keep(void *self)
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
