/* The sensors of a site as they read now, over the pins of this machine, for
 * look and calibrate: a stream of lines, as another program would give. */
#ifndef CUPLATCH_CLI_LOOK_FEED_H
#define CUPLATCH_CLI_LOOK_FEED_H

#include <stdlib.h>

#include "../common/cli.h"

/* Sensors are asked at least so often at the bench, whatever the file says. */
#define FEED_EVERY_MS 1000

/* Where they are: a pins file, or the serial line of a board of ours whose
 * sensors have the same names. Null is what is not given. */
struct feed_from {
    char *pins;
    char *board;
};

static inline bool feed_is_wanted(const struct feed_from *from)
{
    return from->pins || from->board;
}

static inline void feed_forget(struct feed_from *from)
{
    free(from->pins);
    free(from->board);
}

/* The options for these. */
#define FEED_OPTIONS(from)                                                     \
    {"pins",       0, POPT_ARG_STRING,                                         \
     &(from).pins, 0, "this machine's sensors, each at least once a second",   \
     "PINS"},                                                                  \
    {                                                                          \
        "board", 0, POPT_ARG_STRING, &(from).board, 0,                         \
            "those of a board at this serial line, by the word look", "DEVICE" \
    }

/* Starts it in a process of its own, whose lines are standard input from then
 * on; no pump is touched, a supply is on while it is needed. Returns an exit
 * code; what is wrong was told. */
int feed_begin(struct words *words, const struct feed_from *from);

/* The same plan, asked as often as the stream: it lives till the program ends.
 */
const struct cup_plan *feed_plan(const struct cup_plan *plan);

#endif
