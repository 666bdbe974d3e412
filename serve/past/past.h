/* The history part: what controllers say goes into a history, by a thread of
 * its own that may wait for the disk; nobody waits for it. */
#ifndef CUPLATCH_SERVE_PAST_PAST_H
#define CUPLATCH_SERVE_PAST_PAST_H

#include <event2/event.h>

#include "../../grammar/inifile.h"
#include "../link/link.h"

/* Lines that may wait for the thread; with more the disk is too slow, and the
 * controller is asked again, once it has caught up, for what had to be left. */
#define PAST_WAITING_MOST 20000

#define PAST_MINUTES_S (90 * INT64_C(86400))

/* What the file says. `file` null: no history is kept. `minutes_s` is after how
 * long minutes become hours, `at_most` how many bytes the file may have; 0:
 * any. `trusts_clock`: this machine's clock is right, whatever the kernel says;
 * while it is not, nothing is folded, and what says no time of its own is not
 * kept, but asked for again. */
struct past_config {
    const char *file;
    int64_t minutes_s;
    int64_t at_most;
    bool trusts_clock;
};

struct past;

/* Reads [history]; what is wrong is among the problems. */
void past_read(struct past_config *config, const struct ini_section *section,
               struct problems *problems);

/* Opens the history and starts the thread; one that cannot be opened is tried
 * again and again. It aborts where there is no memory. */
struct past *past_open(struct event_base *base,
                       const struct past_config *config);

/* From now on events are put into the outbox of the history, too. Before the
 * first controller. */
void past_sends(struct past *past);

/* One of the outbox has arrived; from any thread. It is noted with what is
 * written next, or sent again after a start. */
void past_sent(struct past *past, int64_t message);

/* Words from outside that were refused; texts count during the call.
 *   part    that heard them, for the log
 *   site    whose they were, by its name; null: of whichever is on this machine
 *   by      who said them
 *   reason  "late", "retained", "stranger" or "no-code"
 *   why     a sentence */
struct refusal {
    const char *part;
    const char *site;
    const char *by;
    const char *reason;
    const char *why;
};

/* An hour has so many of a site; more are in the log alone. */
#define PAST_REFUSALS_MOST 60

/* Notes it in the log, and as an event of the site; from any thread. `past` may
 * be null. */
void past_refuse(struct past *past, const struct refusal *refusal);

/* False from when something could not be written until something was. */
bool past_is_written(struct past *past);

/* All that was heard is written before it returns. */
void past_close(struct past *past);

/* One more controller: who hears of it. `name` must live as long. What one
 * `afar` says came from a broker, and goes to none. */
struct link_ear past_ear(struct past *past, const char *name, bool afar);

/* Its link, to be asked again. */
void past_link(struct past *past, const struct link_ear *ear,
               struct link *link);

#endif
