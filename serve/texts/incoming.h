/* A text of a person, as words: with a code before it or not, a question or
 * something to be done; and the answer as a text. */
#ifndef CUPLATCH_SERVE_TEXTS_INCOMING_H
#define CUPLATCH_SERVE_TEXTS_INCOMING_H

#include <jansson.h>
#include <stdbool.h>

#include "cuplatch/modem.h"
#include "people.h"

struct link;
struct texts;

struct incoming {
    struct texts *texts;
    struct incoming *next;
    const char *site; /* which it is for; null: not known yet */
    struct link *link;
    char name[PEOPLE_NAME_SIZE];
    char from[CUP_NUMBER_SIZE];
    char text[CUP_MESSAGE_SIZE]; /* small letters, one blank between words */
    char id[40];                 /* of this message alone */
    char code[7];                /* that it needs; void once it counted */
    bool paused; /* its person was wrong too often: no code counts */
    uint32_t sent_s;
};

void incoming_read(struct incoming *said, const struct cup_message *message,
                   const char *name);

/* What people say in their own way becomes words: "stop", "off lift". */
void incoming_plain(struct incoming *said);

/* Takes six digits off its beginning; false: there are none. */
bool incoming_code(struct incoming *said, char code[7]);

/* Takes so many letters, and the blank after them, off its beginning. */
void incoming_cut(struct incoming *said, size_t length);

/* Whether it only asks, or only stops. */
bool incoming_asks(const struct incoming *said);
bool incoming_stops(const struct incoming *said);

/* Whether it may be said: by its number alone only what asks or stops, and by
 * one that only looks only what asks; `coded` with a code of its own list. */
bool incoming_may(const struct incoming *said, bool only_looks, bool coded);

/* Why it may not, and what may. */
const char *incoming_why_not(const struct incoming *said, bool only_looks);

/* Whether it asks what it could say. */
bool incoming_wants_help(const struct incoming *said);

/* As the words desk takes it. */
json_t *incoming_body(const struct incoming *said);

/* What was answered, in one line that a person reads. */
void incoming_answer(const struct incoming *said, const json_t *answer,
                     char *text, size_t size);

#endif
