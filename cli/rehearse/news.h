/* What a tired grower wants to read of a rehearsal as it goes by: not each run,
 * and nothing twice. */
#ifndef CUPLATCH_CLI_REHEARSE_NEWS_H
#define CUPLATCH_CLI_REHEARSE_NEWS_H

#include "cuplatch/say.h"

/* The last news, and how often the same came again since; and of each thing the
 * alert that stands, with how often it was told again. */
struct standing_alert {
    uint8_t reason; /* CUP_REASON_NONE: nothing stands */
    unsigned again;
};
struct news {
    const struct cup_plan *plan;
    struct standing_alert *alerts;
    struct cup_event event;
    uint64_t s;       /* of the last */
    uint64_t first_s; /* of the first again */
    unsigned again;
};

void news_open(struct news *news, const struct cup_plan *plan);

/* Prints an event, if it is news. */
void news_event(struct news *news, uint64_t s, const struct cup_event *event);

/* Prints a word that somebody said, and why it was refused, if it was. */
void news_word(struct news *news, uint64_t s, const char *text,
               const char *refused);

/* Prints what was held back. */
void news_end(struct news *news);
void news_close(struct news *news);

#endif
