/* Advice under way: what was recorded of each thing, and what follows. */
#ifndef CUPLATCH_CLI_ADVISE_ADVICE_H
#define CUPLATCH_CLI_ADVISE_ADVICE_H

#include "../../advice/proposal.h"
#include "../../advice/series.h"
#include "../../advice/track.h"
#include "../common/cli.h"
#include "../report/forms.h"
#include "cuplatch/say.h"

/* One thing, by its number as such.
 *   raw     a sensor's samples as they came, and `values` what they come to;
 *           a history has neither
 *   track   a sensor's or a tank's level, smoothed
 *   runs    of a pump or a valve */
struct advised {
    struct series raw, values;
    struct track track;
    struct runs runs;
    struct proposal proposals[PROPOSALS_MOST];
    size_t count;
    bool chosen;
};

/*   old_s  what was said longer ago is not known any more
 *   lag_s  a level is at least so late: a history has means of minutes */
struct advising {
    struct words *words;
    const char *record;
    struct site site;
    struct advised *things;
    cup_index count;
    bool from_history;
    uint32_t old_s, lag_s;
    size_t proposed;
    size_t looser;
};

static inline const char *advised_name(const struct advising *advising,
                                       cup_index i)
{
    return cup_thing_name(advising->site.site.plan, i);
}

/* Fills what was recorded. Return an exit code; what is wrong was told. */
int advice_listen(struct advising *advising);
int advice_recall(struct advising *advising, struct report_days *days);

/* Prints what is proposed of a thing. */
void advice_tell(struct advising *advising, cup_index i);

/* Says of each chosen thing what follows. */
void advice_of_sensors(struct advising *advising);
void advice_of_pumps(struct advising *advising);
void advice_of_duties(struct advising *advising);

#endif
