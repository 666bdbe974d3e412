/* A file of sections and `key = value` lines, with the line of each. */
#ifndef CUPLATCH_GRAMMAR_INIFILE_H
#define CUPLATCH_GRAMMAR_INIFILE_H

#include <stdio.h>

#include "problems.h"

/* Sections of one file: more than any site or garden needs, and what a plan can
 * number. */
#define INI_SECTIONS_MOST 4000

/* One `key = value`. `text` is both, as in messages. */
struct ini_entry {
    char *key;
    char *value;
    char *text;
    int line;
};

/* One [name] and what stands below it. `text` is "[name]". */
struct ini_section {
    char *name;
    char *text;
    int line;
    struct ini_entry *entries;
    size_t count;
};

struct ini_file {
    struct ini_section *sections;
    size_t count;
};

/* Reads a stream; what is not right as an INI file goes to `problems`. */
void ini_file_read(struct ini_file *file, FILE *in, struct problems *problems);

void ini_file_free(struct ini_file *file);

/* A name is a letter, then letters, digits, _ or -, CUP_NAME_MAX in all at
 * most. */
bool ini_is_name(const char *name);

#endif
