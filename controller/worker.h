/* A worker of a controller: it makes the passes, until it is told to end. */
#ifndef CUPLATCH_CONTROLLER_WORKER_H
#define CUPLATCH_CONTROLLER_WORKER_H

#include "../ports/linux/guardian.h"
#include "wired.h"
#include "wishes.h"

/* What guardian and workers share: everything before the first is started. */
struct machine {
    struct site *site;
    const struct controller_wishes *wishes;
    struct wired wired;
    uint64_t said; /* by the files, when they were read */
};

/* The life of a worker: `self` is the machine. Returns an exit code. */
int worker_live(void *self, const struct worker_life *life);

#endif
