/* A count for each tenth of a ms. */
#include "lateness.h"

#include <inttypes.h>
#include <stdio.h>

void lateness_note(struct lateness *lateness, double late_ms)
{
    double tenths = late_ms * 10;
    int at = tenths < LATE_MOST ? (int)tenths : LATE_MOST;
    lateness->count[at < 0 ? 0 : at]++;
    lateness->passes++;
}

void lateness_tell(const struct lateness *lateness)
{
    uint64_t left = lateness->passes / 1000;
    int late = LATE_MOST;
    while (late > 0 && lateness->count[late] <= left)
        left -= lateness->count[late--];
    fprintf(stderr,
            "cuplatch: made %" PRIu64
            " passes; 999 in 1000 came at most %s%.1f ms late\n",
            lateness->passes, late == LATE_MOST ? "more than " : "",
            (late + (late < LATE_MOST)) / 10.0);
}
