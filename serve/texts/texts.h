/* The message part: alerts go as text messages to people, and words come back
 * from them, by a modem at a serial line. By a thread of its own, since a line
 * may hang; what is not yet sent is in a file, over restarts. */
#ifndef CUPLATCH_SERVE_TEXTS_TEXTS_H
#define CUPLATCH_SERVE_TEXTS_TEXTS_H

#include <event2/event.h>

#include "../../grammar/inifile.h"
#include "../words/words.h"
#include "config.h"

/* Words that the service centre had longer ago count no more, unless they only
 * stop. */
#define TEXTS_OLD_S 600
#define TEXTS_A_DAY 20

struct texts;

/* Reads [modem]; what is wrong is among the problems. */
void texts_read(struct texts_config *config, const struct ini_section *section,
                struct problems *problems);

/* What is refused goes into `past`, which may be null. */
struct texts *texts_open(struct event_base *base,
                         const struct texts_config *config,
                         struct words_desk *words, struct past *past);
void texts_close(struct texts *texts);

/* What stands, as it tells of it. */
struct alerts *texts_alerts(struct texts *texts);

/* Whether the modem could send one now. */
bool texts_are_ready(struct texts *texts);

/* One more controller of this machine: who hears of it, and through which link
 * to tell it. `name` must live as long. */
struct link_ear texts_ear(struct texts *texts, const char *name);
void texts_link(struct texts *texts, const char *name, struct link *link);

/* --let-in and --new-codes: say what was made. Return an exit code. */
int texts_let_in(const char *people_path);
int texts_new_codes(const char *people_path, const char *name);

#endif
