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

struct said {
    struct texts *texts;
    struct said *next;
    const char *site; /* which it is for; null: not known yet */
    struct link *link;
    char name[PEOPLE_NAME_SIZE];
    char from[CUP_NUMBER_SIZE];
    char text[CUP_MESSAGE_SIZE]; /* small letters, one blank between words */
    char id[40];                 /* of this message alone */
    char code[7];                /* that it needs; void once it counted */
    uint32_t sent_s;
};

void said_read(struct said *said, const struct cup_message *message,
               const char *name);

/* What people say in their own way becomes words: "stop", "off lift". */
void said_plain(struct said *said);

/* Takes six digits off its beginning; false: there are none. */
bool said_code(struct said *said, char code[7]);

/* Takes so many letters, and the blank after them, off its beginning. */
void said_cut(struct said *said, size_t length);

/* Whether it only asks, or only stops. */
bool said_asks(const struct said *said);
bool said_stops(const struct said *said);

/* Whether it asks what it could say. */
bool said_wants_help(const struct said *said);

/* As the words desk takes it. */
json_t *said_body(const struct said *said);

/* What was answered, in one line that a person reads. */
void said_answer(const struct said *said, const json_t *answer, char *text,
                 size_t size);

#endif
