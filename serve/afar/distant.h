/* One site as a broker tells of it, made into the lines that its controller
 * says over its socket: topic by topic, and every event once and in order,
 * whatever was lost on the way. */
#ifndef CUPLATCH_SERVE_AFAR_DISTANT_H
#define CUPLATCH_SERVE_AFAR_DISTANT_H

#include "../link/link.h"

/* Events that are missing are asked for so often, ... */
#define DISTANT_ASK_S 5
/* Names that wait for the site to say what it has. */
#define DISTANT_EARLY_MOST 2000
/* ... so many times; then they count as gone. */
#define DISTANT_ASK_MOST 6

/* How it says something: on a topic below the site's. Lets go of the value. */
struct distant_mouth {
    const char *identity; /* whose words they are */
    void (*say)(void *self, const char *id, const char *below, json_t *value);
    void (*again)(void *self); /* all that is retained, once more */
    void *self;
};

struct distant;

/* Of an id, with who hears of it set by distant_hear(). */
struct distant *distant_open(const char *id, const struct distant_mouth *mouth);
void distant_close(struct distant *distant);
void distant_hear(struct distant *distant, const struct link_ear *ear);

const char *distant_id(const struct distant *distant);
struct link *distant_link(struct distant *distant);

/* What came on a topic below the site's; `value` is null where it was no
 * JSON, `length` 0 where nothing is there any more. */
void distant_take(struct distant *distant, const char *below, const char *text,
                  size_t length);

/* The broker is gone: so is the site, as far as anybody knows. */
void distant_lost(struct distant *distant);

/* Every second. */
void distant_look(struct distant *distant);

#endif
