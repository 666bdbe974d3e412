/* What cuplatch run may be given. */
#ifndef CUPLATCH_CLI_RUN_H
#define CUPLATCH_CLI_RUN_H

#include "cli.h"

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
    uint32_t from_s;
    double span_s; /* 0: until it is told to end */
};

/* Where it listens: as was wished, or by the name of the site file, which is
 * `stem` then. False, told on stderr, when there is no place for it. */
bool run_socket(const struct words *words, const struct run_wishes *wishes,
                char *stem, size_t stem_size, char *path, size_t size);

/* Over the pins of this machine, under a guardian. Returns an exit code, or
 * RUN_ANEW when it is to begin anew with files that were changed. */
#define RUN_ANEW (-1)
int run_linux(struct words *words, struct site *site,
              const struct run_wishes *wishes);

/* Against a simulated garden. Returns an exit code. */
int run_sim(struct words *words, struct site *site,
            const struct run_wishes *wishes);

#endif
