/* What a broker is to retain of a site: a text for each topic below it, of
 * which the next overwrites the last. */
#ifndef CUPLATCH_SERVE_BROKER_RETAINED_H
#define CUPLATCH_SERVE_BROKER_RETAINED_H

#include <jansson.h>

/*   texts    by topic; empty: nothing is retained there any more
 *   changed  which of them are yet to be said
 *   pumps, out  the last of each output */
struct retained {
    json_t *texts;
    json_t *changed;
    json_t *pumps, *out;
};

struct retained retained_open(void);
void retained_close(struct retained *retained);

/* What a controller said; names that are no longer in its site are cleared. */
void retained_site(struct retained *retained, const json_t *site);
void retained_now(struct retained *retained, const json_t *now);

/* A topic that somebody retained: cleared, where it is none of ours. */
void retained_stranger(struct retained *retained, const char *below);

/* All is to be said again. */
void retained_again(struct retained *retained);

#endif
