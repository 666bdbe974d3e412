/* Numbers for a sensor's section, each with why; never looser than what the
 * file has without saying so. */
#ifndef CUPLATCH_ADVICE_PROPOSE_H
#define CUPLATCH_ADVICE_PROPOSE_H

#include "series.h"

/* What the file says now of a sensor; `stuck_ms` -1 where nothing.
 *   marked  it has marks in raw counts, dry and wet, from..to */
struct sensor_now {
    bool has_plausible;
    bool marked;
    int32_t from, to;
    int window, trim;
    uint64_t every_ms;
    uint64_t lost_ms;
    int64_t stuck_ms;
};

struct proposal {
    char key[16];
    char value[40];
    char why[240];
    bool looser;
};

#define PROPOSALS_MOST 4

/* How many there are. */
size_t propose(const struct sensor_now *now, const struct series_facts *facts,
               struct proposal proposals[PROPOSALS_MOST]);

/* "90s", "5m", "2h": a time as a site file says it, rounded up to what people
 * would write. */
void propose_time(uint64_t ms, char *text, size_t size);

#endif
