/* Words of a browser on their way to a controller and its answers back. */
#ifndef CUPLATCH_SERVE_PAGE_WORDS_H
#define CUPLATCH_SERVE_PAGE_WORDS_H

#include <event2/event.h>
#include <event2/http.h>
#include <jansson.h>

#include "../link.h"

/* A word that was said longer ago counts no more, unless it only stops. */
#define WORDS_OLD_S 60
/* Those that were taken last are known again. */
#define WORDS_KNOWN 1024
#define WORDS_WAITING 64
#define WORDS_ANSWER_S 10

struct words_desk;

struct words_desk *words_open(struct event_base *base);
void words_close(struct words_desk *desk);

/* Takes the body of a POST for a controller at the other end of `link`, null
 * while it is not there, in somebody's name; answers now or later. */
void words_tell(struct words_desk *desk, struct evhttp_request *request,
                struct link *link, const char *who);

/* A line that has a `done`: an answer of any controller. */
void words_answered(struct words_desk *desk, const json_t *line);

#endif
