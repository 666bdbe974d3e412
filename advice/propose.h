/* Numbers for a sensor's section, each with why; never looser than what the
 * file has without saying so. */
#ifndef CUPLATCH_ADVICE_PROPOSE_H
#define CUPLATCH_ADVICE_PROPOSE_H

#include "proposal.h"
#include "series.h"
#include "track.h"

/* What the file says now of a sensor; `stuck_ms` -1 where nothing.
 *   marked  it has marks in raw counts, dry and wet, from..to
 *   unit    of its values, in whose steps are
 *   jump    in a second, 0 where nothing; and of what has a steady
 *   way     between the marks of what keeps it, 0 where nothing does
 *   silences  how often nothing was said for nearly as long as lost_ms
 *   track   smoothed; and `values` what its samples come to before that */
struct sensor_now {
    bool has_plausible;
    bool marked;
    bool has_steady;
    int32_t from, to;
    int window, trim;
    uint64_t every_ms;
    uint64_t lost_ms;
    int64_t stuck_ms;
    uint8_t unit;
    double jump;
    size_t silences;
    double way;
    const struct track *track;
    const struct series_facts *values;
};

/* Nearly as long as the value is held. */
#define SILENCE_PART 0.8

/* How many there are. */
size_t propose(const struct sensor_now *now, const struct series_facts *facts,
               struct proposal proposals[PROPOSALS_MOST]);

#endif
