/* Wrong keys slow down who says them: after a few, an address must wait, longer
 * each time. A right one is let in all the same: many people may come by one
 * address, through whatever stands before us, and no key is found by trying. */
#ifndef CUPLATCH_SERVE_PAGE_TRIES_H
#define CUPLATCH_SERVE_PAGE_TRIES_H

#include <stdint.h>

#define TRIES_FREE 5
#define TRIES_WAIT_MOST_S 60
/* Addresses that are remembered; the one that was heard of longest ago makes
 * room. */
#define TRIES_ADDRESSES 256

struct try_of {
    char address[46];
    unsigned wrong;
    int64_t until; /* no wrong one is answered before */
    int64_t heard;
};

struct tries {
    struct try_of list[TRIES_ADDRESSES];
};

/* So many s must be waited by who says a wrong one; 0: go on. */
int64_t tries_wait(struct tries *tries, const char *address, int64_t now);

void tries_wrong(struct tries *tries, const char *address, int64_t now);

#endif
