/* What the events of a rehearsal came to, held against the garden's truth: runs
 * by reason, what kept pumps off, trips of pumps that were well, and what was
 * told of each thing that went wrong. */
#ifndef CUPLATCH_CLI_REHEARSE_TALLY_H
#define CUPLATCH_CLI_REHEARSE_TALLY_H

#include "../../garden/garden.h"
#include "cuplatch/say.h"
#include "cuplatch/site.h"

struct pump_tally {
    unsigned starts[CUP_REASON_COUNT];
    unsigned blocks[CUP_REASON_COUNT];
    struct cup_event last[CUP_REASON_COUNT]; /* of those */
    unsigned trips;
    unsigned trips_well; /* of them, while the pump would have brought water */
    unsigned unanswered; /* runs to its longest that did not do their job */
    unsigned locks;
    unsigned dry_untold; /* runs dry for a minute or more, and no trip */
    double dry_before_s;
    bool ran_dry; /* the last run */
};

/* What was told of one thing that went wrong. */
struct trouble_tally {
    bool told;
    double after_s;
    char why[CUP_SENTENCE_SIZE];
};

struct tally {
    const struct cup_site *site;
    const struct garden *garden;
    struct pump_tally *pumps;       /* by the site's numbers */
    int *truths;                    /* of the garden, by the same; -1: none */
    struct trouble_tally *troubles; /* by the garden's */
    unsigned alerts;
    unsigned events;
};

/* Begins to count. Site and garden must live as long. */
void tally_open(struct tally *tally, const struct cup_site *site,
                const struct garden *garden);
void tally_close(struct tally *tally);

/* Counts an event, as soon as it is told. */
void tally_event(struct tally *tally, double now_s,
                 const struct cup_event *event);

/* Of a pump by its name; null when the site has none of it. */
const struct pump_tally *tally_pump(struct tally *tally, const char *name);

#endif
