/* Values of several words: "battery above 11.9V back 12.4V". */
#ifndef CUPLATCH_GRAMMAR_SCAN_H
#define CUPLATCH_GRAMMAR_SCAN_H

#include <stdbool.h>

/* A word of a value; one that is longer fits nothing. */
struct scanned {
    char text[32];
};

/* Takes a value apart by a form: words that must stand there as they are, and a
 * star for any word, which goes into the next of the `struct scanned *` that
 * follow: scan("4mm in 2m", "* in *", &change, &time). False when the value has
 * other words, or more or fewer. */
bool scan(const char *value, const char *form, ...);

/* Takes the next word of a value, on which `*at` stands; false when there is
 * none left. A longer one is cut: no name, number or time is as long. */
bool scan_next(const char **at, struct scanned *word);

#endif
