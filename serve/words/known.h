/* Ids of the words that were taken last, kept in a file, a line each: a word
 * that comes twice counts once, over restarts, too. */
#ifndef CUPLATCH_SERVE_WORDS_KNOWN_H
#define CUPLATCH_SERVE_WORDS_KNOWN_H

#include <stdbool.h>
#include <stddef.h>
#include <stdio.h>

#define KNOWN_MOST 1024
#define KNOWN_ID_MOST 64

struct known {
    char ids[KNOWN_MOST][KNOWN_ID_MOST + 1];
    size_t count; /* in all: the ring holds the last */
    char path[4300];
    size_t lines; /* of the file */
    bool told;    /* that it cannot be written */
};

/* Reads those of the file beside a history; null: none are kept. */
void known_open(struct known *known, const char *history);

bool known_has(const struct known *known, const char *id);
void known_add(struct known *known, const char *id);

#endif
