/* A question to a history, and its answer: the thread's half of the records. */
#ifndef CUPLATCH_SERVE_PAGE_LOOK_UP_H
#define CUPLATCH_SERVE_PAGE_LOOK_UP_H

#include <jansson.h>

#include "ask.h"

/* One of the first two; else `wrong` says why. The caller's. */
struct looked_up {
    json_t *json;
    char *text;
    char wrong[200];
};

void look_up(const char *path, const struct records_ask *ask,
             struct looked_up *answer);

#endif
