/* A run told as a story: each start, stop and block with its reason, then
 * the totals. */
#ifndef CUPLATCH_CLI_STORY_H
#define CUPLATCH_CLI_STORY_H

#include <stdio.h>

#include "cuplatch/site.h"

struct story;

/* Begins a story; `out` may be null for the totals alone. */
struct story *story_open(const struct cup_site *site, FILE *out);
void story_close(struct story *story);

/* Tells of an event; `at_ms` is the time since the beginning. */
void story_event(struct story *story, uint64_t at_ms,
                 const struct cup_event *event);

/* Looks at the levels after a pass, for the totals. */
void story_look(struct story *story);

/* The totals, for a span of time. */
void story_totals(struct story *story, uint64_t span_ms, FILE *out);

#endif
