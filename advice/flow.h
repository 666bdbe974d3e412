/* What its runs say of a pump: how soon its tank, or a sensor, shows that water
 * moves, and how far a tank that was drawn from comes back by itself. */
#ifndef CUPLATCH_ADVICE_FLOW_H
#define CUPLATCH_ADVICE_FLOW_H

#include "proposal.h"
#include "quantity.h"
#include "track.h"

/* Who else moves the same tank. */
#define FLOW_OTHERS 16

/* What tells of a flow.
 *   name    of the tank or sensor, as in the site file
 *   sign    +1 when the track rises with the flow, -1 when it falls
 *   above   it is held against a limit, not against what it was
 *   rises   the word of the proof, where it is not above
 *   unit    of the track's steps
 *   lag_s   how late it is
 *   old_s   a value older than this is not known
 *   runs    of the pump, and of the others that move it */
struct flow_sight {
    const char *name;
    const struct track *track;
    int sign;
    bool above;
    bool rises;
    uint8_t unit;
    uint32_t lag_s, old_s;
    const struct runs *runs;
    const struct runs *others[FLOW_OTHERS];
    size_t other_count;
};

/* Windows of running of one length, in steps.
 *   least, mostly  what it moved by in those that moved, or stood at
 *   quiet          as much as it moves, or stands at, with nothing running
 *   still          windows in which it hardly moved */
struct flow_facts {
    size_t windows, still;
    double least, mostly, quiet;
};

/* False when too few windows tell. */
bool flow_look(const struct flow_sight *sight, uint32_t within_s,
               struct flow_facts *facts);

/* A proof for the pump. `change` and `within_s` are what the file has, 0 where
 * it has none. */
bool propose_proof(const struct flow_sight *sight, double change,
                   uint32_t within_s, struct proposal *proposal);

/* How far above dry_below a pump may run again, from the level of its tank in
 * hundredths of a per cent: `below` and `clear` are the file's. */
bool propose_clear(const struct flow_sight *level, double below, double clear,
                   struct proposal *proposal);

#endif
