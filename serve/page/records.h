/* What the page asks of the history: by a thread of its own, since a disk may
 * take its time; nobody else waits for it. */
#ifndef CUPLATCH_SERVE_PAGE_RECORDS_H
#define CUPLATCH_SERVE_PAGE_RECORDS_H

#include <event2/event.h>
#include <event2/http.h>

#include "ask.h"

struct records;

/* `path` is the history's, and must live as long. */
struct records *records_open(struct event_base *base, const char *path);
void records_close(struct records *records);

/* Answers later, or at once where too many wait. */
void records_answer(struct records *records, struct evhttp_request *request,
                    const struct records_ask *ask);

#endif
