/* Which sites are of this machine, by the ids that their controllers say: what
 * comes from elsewhere under such an id is nobody's. Kept beside the history,
 * so that it is known before a controller has spoken. */
#ifndef CUPLATCH_SERVE_LINK_HERE_H
#define CUPLATCH_SERVE_LINK_HERE_H

#include <stdbool.h>

struct here;

/* Null for `history`: in memory alone. */
struct here *here_open(const char *history);
void here_close(struct here *here);

/* A section of the file has that name; what is known of those that are gone
 * counts no more. */
void here_expect(struct here *here, const char *name);

/* A controller of this machine, by the name of its section, says its id. */
void here_is(struct here *here, const char *name, const char *id);

bool here_has(const struct here *here, const char *id);

#endif
