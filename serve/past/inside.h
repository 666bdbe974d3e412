/* What the two halves of the history part share: a queue, and how far events
 * are on the disk, behind one lock. */
#ifndef CUPLATCH_SERVE_PAST_INSIDE_H
#define CUPLATCH_SERVE_PAST_INSIDE_H

#include <pthread.h>
#include <sys/stat.h>

#include "../../history/history.h"
#include "../../ports/common/wall.h"
#include "past.h"
#include "taker.h"

/* Messages that arrived and are not yet noted; the rest is noted after they
 * were sent once more. */
#define SENT_MOST 1024
/* After a failure it is tried again so much later, and twice that each time. */
#define PAST_PAUSE_FIRST_S 2

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
    bool fails;              /* what was to be written last was not */
    bool undated;            /* something waits for the clock to be set */
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

/* Whether this machine's clock dates anything. */
static inline bool past_has_clock(const struct past *past)
{
    return past->config.trusts_clock || wall_is_right();
}

/* The thread: takes the queue until it ends. Before it starts, and after it has
 * ended: opens the file; forgets who was heard. */
void *past_keep(void *past);
void past_open_file(struct past *past);
void past_forget(struct past *past);

#endif
