/* A run told as a story: each start, stop and block with its reason, then
 * the totals. */
#ifndef CUPLATCH_CLI_REPLAY_STORY_H
#define CUPLATCH_CLI_REPLAY_STORY_H

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

/* What a pump came to in a span of time: "9 starts, ran 4h 52m, ...". */
void story_pump(const struct story *story, cup_index pump, uint64_t span_ms,
                char *text, size_t size);

/* What happens, in a word or two; a moment of the story: "day 2 06:10:00". */
const char *story_phrase(const struct cup_event *event);
void story_time(FILE *out, uint64_t ms);

/* The totals, for a span of time. */
void story_totals(struct story *story, uint64_t span_ms, FILE *out);

#endif
