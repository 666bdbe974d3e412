/* What doses say of a bed: how long water takes to its probe, and how far one
 * dose lifts it. */
#ifndef CUPLATCH_ADVICE_BED_H
#define CUPLATCH_ADVICE_BED_H

#include "proposal.h"
#include "quantity.h"
#include "track.h"

/* A dosed duty, in the steps of what it keeps.
 *   runs         of its pump, those of other duties among them
 *   start, stop  its marks */
struct bed_now {
    const struct track *track;
    const struct runs *runs;
    int duty;
    double start, stop;
    uint8_t unit;
    uint32_t dose_s, soak_s;
    uint32_t old_s; /* a value older than this is not known */
};

/*   lift      of one dose, in steps toward stop
 *   reach_s   from the first dose of a session until the probe moves
 *   settle_s  from the end of the last until it has nearly done so, of nearly
 *             all sessions */
struct bed_facts {
    size_t sessions, doses;
    double lift;
    uint32_t reach_s, settle_s;
};

/* False when too few sessions tell. */
bool bed_look(const struct bed_now *now, struct bed_facts *facts);

/* Soak, then dose; returns how many. */
size_t propose_bed(const struct bed_now *now, const struct bed_facts *facts,
                   struct proposal *proposals);

#endif
