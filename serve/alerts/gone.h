/* Events of what is gone, and back: of a controller, or of something of this
 * machine; nobody but cuplatch-serve says them. */
#ifndef CUPLATCH_SERVE_ALERTS_GONE_H
#define CUPLATCH_SERVE_ALERTS_GONE_H

#include <jansson.h>
#include <stdint.h>

/* "the broker has not answered since 14:02". `of` may be null: it is the whole
 * site. Its number is when, so that it is none of those that were gone before.
 */
json_t *gone_event(const char *of, const char *what, int64_t since_s);

/* It is back as of now; `what` is a sentence. */
json_t *back_event(const char *of, const char *what);

#endif
