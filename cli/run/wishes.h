/* What cuplatch run may be given. */
#ifndef CUPLATCH_CLI_RUN_WISHES_H
#define CUPLATCH_CLI_RUN_WISHES_H

#include "../common/cli.h"

/* Texts are the caller's; null where they were not given. */
struct run_wishes {
    char *port;
    char *journal;
    char *garden;
    char *socket;
    char *record;
    char *from;
    char *span;
    char *pins;
    int faster;
    int speed;
    int seed;
    int trust_clock;
    int keep; /* days of the raw log */
    uint32_t from_s;
    double span_s; /* 0: until it is told to end */
};

/* Against a simulated garden. Returns an exit code. */
int run_sim(struct words *words, struct site *site,
            const struct run_wishes *wishes);

#endif
