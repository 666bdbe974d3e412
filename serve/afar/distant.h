/* One site as a broker tells of it, made into the lines that its controller
 * says over its socket: topic by topic, and every event once and in order,
 * whatever was lost on the way. */
#ifndef CUPLATCH_SERVE_AFAR_DISTANT_H
#define CUPLATCH_SERVE_AFAR_DISTANT_H

#include "../link/link.h"

/* Events that are missing are asked for so often, ... */
#define FAR_ASK_S 5
/* Names that wait for the site to say what it has. */
#define FAR_EARLY_MOST 2000
/* ... so many times; then they count as gone. */
#define FAR_ASK_MOST 6

/* How it says something: on a topic below the site's. Lets go of the value. */
struct far_mouth {
    const char *identity; /* whose words they are */
    void (*say)(void *self, const char *id, const char *below, json_t *value);
    void (*again)(void *self); /* all that is retained, once more */
    void *self;
};

struct far;

/* Of an id, with who hears of it set by far_hear(). */
struct far *far_open(const char *id, const struct far_mouth *mouth);
void far_close(struct far *far);
void far_hear(struct far *far, const struct link_ear *ear);

const char *far_id(const struct far *far);
struct link *far_link(struct far *far);

/* What came on a topic below the site's; `value` is null where it was no
 * JSON, `length` 0 where nothing is there any more. */
void far_take(struct far *far, const char *below, const char *text,
              size_t length);

/* The broker is gone: so is the site, as far as anybody knows. */
void far_lost(struct far *far);

/* Every second. */
void far_look(struct far *far);

#endif
