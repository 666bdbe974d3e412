/* What cuplatch run may be given. */
#ifndef CUPLATCH_CLI_RUN_WISHES_H
#define CUPLATCH_CLI_RUN_WISHES_H

#include "../../socket/desk.h"
#include "../cli.h"

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

/* Opens its local socket, where it was wished or by the site's id, and says
 * where in `hello` (of `size` bytes). Null, told on stderr, when that cannot be
 * done. */
struct desk *run_desk(const struct words *words, const struct site *site,
                      const struct run_wishes *wishes, char *hello,
                      size_t size);

/* Over the pins of this machine, under a guardian. Returns an exit code, or
 * RUN_ANEW when it is to begin anew with files that were changed. */
#define RUN_ANEW (-1)
int run_linux(struct words *words, struct site *site,
              const struct run_wishes *wishes);

/* Against a simulated garden. Returns an exit code. */
int run_sim(struct words *words, struct site *site,
            const struct run_wishes *wishes);

#endif
