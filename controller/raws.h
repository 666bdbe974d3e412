/* The raw log of a controller that runs: what each sensor said, as it came. */
#ifndef CUPLATCH_CONTROLLER_RAWS_H
#define CUPLATCH_CONTROLLER_RAWS_H

#include "../kept/writer.h"
#include "../ports/linux/duct.h"

struct raws;

/* For a site whose writer keeps it. */
struct raws *raws_open(const struct cup_site *site, struct writer *writer);
void raws_close(struct raws *raws);

/* Something was heard of a sensor or a source, at that time of the site. */
void raws_heard(struct raws *raws, unsigned thing, const struct reply *heard,
                uint32_t t_ms);

/* The clock on the wall was set. */
void raws_clock(struct raws *raws, uint32_t clock_s);

/* A pass is over. Returns how many rows were lost since that was told last, at
 * most once a minute. */
unsigned raws_passed(struct raws *raws, uint32_t t_ms);

#endif
