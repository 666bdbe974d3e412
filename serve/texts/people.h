/* Who is texted, and whose texts count: a file, a section a person, changed by
 * the command and read again when it has changed. Codes that count once are
 * beside it, as hashes. */
#ifndef CUPLATCH_SERVE_TEXTS_PEOPLE_H
#define CUPLATCH_SERVE_TEXTS_PEOPLE_H

#include <stdbool.h>
#include <sys/stat.h>
#include <time.h>

#include "cuplatch/modem.h"

#define PEOPLE_MOST 50
#define PEOPLE_NAME_SIZE 26
/* What one is let in by: six digits, for ten minutes, of three tries. */
#define PEOPLE_LET_IN_S 600
#define PEOPLE_TRIES 3
#define PEOPLE_CODES 10

struct person {
    char name[PEOPLE_NAME_SIZE];
    char number[CUP_NUMBER_SIZE];
    bool only_looks;
};

struct people {
    const char *path;
    struct stat as_read;
    struct person list[PEOPLE_MOST];
    size_t count;
};

/* Reads the file at `path`, which must live as long; one that is not there has
 * nobody. False, and `wrong` says why. */
bool people_open(struct people *people, const char *path, char *wrong,
                 size_t size);

/* Reads it again where it has changed. */
void people_refresh(struct people *people);

/* By the whole number; null: nobody's. */
const struct person *people_find(const struct people *people,
                                 const char *number);

/* Opens the door: a code that whoever texts it first is let in by, to look. It
 * is shown once. */
bool people_let_in(const char *path, char code[7], char *wrong, size_t size);

/* A text of a number that nobody has: whether it was the code. Then it is
 * entered. A wrong one counts as a try while the door is open. */
bool people_try(struct people *people, const char *number, const char *text,
                time_t now);

/* Ten codes for a person, each of which makes one text count as if it were said
 * at the machine; those from before are void. */
bool people_new_codes(const char *path, const char *name,
                      char codes[PEOPLE_CODES][7], char *wrong, size_t size);

/* Whether a person has such a code. */
bool people_has_code(const struct people *people, const char *name,
                     const char *code);

/* The same, and it is void then. */
bool people_spend(const struct people *people, const char *name,
                  const char *code);

#endif
