/* Every error and warning of a file, kept until all are found. */
#ifndef CUPLATCH_GRAMMAR_PROBLEMS_H
#define CUPLATCH_GRAMMAR_PROBLEMS_H

#include <stdbool.h>
#include <stddef.h>
#include <stdio.h>

/* Where in the file, and the offending text ("dry_below = 12"). Line 0 is the
 * file as a whole. */
struct place {
    int line;
    const char *text;
};

struct problem {
    int line;
    bool warning;
    char *text;
    char *message;
};

/* All zero is empty. */
struct problems {
    struct problem *list;
    size_t count;
    size_t errors;
};

/* Adds an error or a warning; the message is a printf form. */
void problem_error(struct problems *problems, struct place place,
                   const char *form, ...) __attribute__((format(printf, 3, 4)));
void problem_warning(struct problems *problems, struct place place,
                     const char *form, ...)
    __attribute__((format(printf, 3, 4)));

/* Adds an error about a word, and the nearest right one where there is one. */
void problem_word(struct problems *problems, struct place place,
                  const char *message, const char *near);

/* Forgets the errors of a line that were added after the first `count`. */
void problems_forget(struct problems *problems, size_t count, int line);

/* "FILE:LINE: TEXT: MESSAGE", in the order of the lines. */
void problems_print(struct problems *problems, const char *path, FILE *out);

void problems_free(struct problems *problems);

/* The word of a list nearest to `word`, or null when none is near. The list
 * ends with a null. */
const char *nearest_word(const char *word, const char *const *list);

/* Writes the words of such a list as "a, b or c"; those that do not go into
 * `size` bytes are left out. */
void words_list(char *text, size_t size, const char *const *words);

#endif
