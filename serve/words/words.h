/* Words from outside on their way to controllers, and answers back: whoever
 * brings them, they go through the same checks. */
#ifndef CUPLATCH_SERVE_WORDS_WORDS_H
#define CUPLATCH_SERVE_WORDS_WORDS_H

#include <event2/event.h>
#include <jansson.h>

#include "../link/link.h"

struct past;

/* A word that was said longer ago counts no more, unless it only stops. */
#define WORDS_OLD_S 60
/* Ids of those that were taken last are known again. */
#define WORDS_KNOWN 1024
#define WORDS_WAITING 64
#define WORDS_ANSWER_S 10

/* What became of it: DONE and REFUSED by the controller; WRONG in its shape;
 * too LATE, or known; the controller AWAY, too many BUSY, or SILENT. */
enum words_end {
    WORDS_DONE,
    WORDS_REFUSED,
    WORDS_WRONG,
    WORDS_LATE,
    WORDS_AWAY,
    WORDS_BUSY,
    WORDS_SILENT
};

/* Who brings words, and gets the answer: now or later, once, {"done", ...} or
 * {"error"}, which is its own then.
 *   site       whose they are, by its name in the file
 *   by         who says them, for the controller
 *   old_s      after how long they count no more; 0: WORDS_OLD_S
 *   own_clock  their time is by this machine's, whether that is right or not */
struct words_from {
    const char *site;
    const char *by;
    int old_s;
    bool own_clock;
    void (*answer)(void *self, enum words_end end, json_t *answer);
    void *self;
};

struct words_desk;

/* Ids are kept beside the history, over restarts; null: in memory, and words
 * from before the start are too old. What is refused goes into `past`, which
 * may be null. `trusts_clock`: as if this machine's clock were set by the
 * world's. */
struct words_desk *words_open(struct event_base *base, const char *history,
                              struct past *past, bool trusts_clock);

/* Who still waits is told so. Before whoever brings words is closed. */
void words_close(struct words_desk *desk);

/* {"id", "t", "tell": [...]} or {"id", "ask": [...]}, null where it was none of
 * JSON, for the controller at the other end of `link`, which may be null. */
void words_say(struct words_desk *desk, struct link *link,
               const struct words_from *from, const json_t *body);

/* Whether a word only stops, so that it is never too late: "lift off", "site
 * hold". */
bool words_stop(const char *word);

/* A line that has a `done`: an answer of the controller at the other end of
 * `link`. One that answers what was said to another is nobody's. */
void words_answered(struct words_desk *desk, const struct link *link,
                    const json_t *line);

#endif
