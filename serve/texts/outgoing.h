/* Texts on their way out: answers first, then alerts, one to each person, which
 * wait in quiet hours and in a file over restarts; and so many messages a day.
 * What is put in may come from any thread, the rest is of one. */
#ifndef CUPLATCH_SERVE_TEXTS_OUTGOING_H
#define CUPLATCH_SERVE_TEXTS_OUTGOING_H

#include <jansson.h>
#include <time.h>

#include "config.h"
#include "cuplatch/modem.h"
#include "people.h"

/* One that was refused is sent again after so long, and twice that each time.
 */
#define OUTGOING_PAUSE_FIRST_S 30
#define OUTGOING_PAUSE_MOST_S 600
/* Of one answer, in letters of all its messages. */
#define OUTGOING_ANSWER_MOST 450

struct outgoing;

struct outgoing *outgoing_open(const struct texts_config *config);
void outgoing_close(struct outgoing *out);

/* An answer; where too many wait it is dropped. An alert; its own then. */
void outgoing_reply(struct outgoing *out, const char *to, const char *text);
void outgoing_alert(struct outgoing *out, json_t *alert);

/* Puts what came into the file, one to each person. */
void outgoing_keep(struct outgoing *out, struct people *people);

/* Looks what became of the last, and begins the next if there is one. */
void outgoing_turn(struct outgoing *out, struct cup_modem *modem, time_t now);

#endif
