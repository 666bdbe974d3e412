/* A rehearsal's days as a history, as a controller's would be. */
#ifndef CUPLATCH_CLI_REHEARSE_CHRONICLE_H
#define CUPLATCH_CLI_REHEARSE_CHRONICLE_H

#include "../../ports/common/onlooker.h"
#include "../../sitefile/sitefile.h"

struct chronicle;

/* Adds to a history, made if need be, from a moment on by the clock. Null, told
 * on stderr, when that cannot be done. Each pass is told to `next`, too, if it
 * is not null. */
struct chronicle *chronicle_open(const char *path, const char *id,
                                 const struct cup_file *file,
                                 const struct cup_site *site, uint32_t from_s,
                                 struct cup_onlooker *next);

/* Gets every pass. */
struct cup_onlooker *chronicle_onlooker(struct chronicle *chronicle);

/* An event, as it is told. */
void chronicle_event(struct chronicle *chronicle,
                     const struct cup_event *event);

/* False, told on stderr, when something could not be written. */
bool chronicle_close(struct chronicle *chronicle);

#endif
