/* A section of the file, as the part that it is of reads it. */
#ifndef CUPLATCH_SERVE_COMMON_ENTRIES_H
#define CUPLATCH_SERVE_COMMON_ENTRIES_H

#include <stdbool.h>

#include "../../grammar/inifile.h"

/* A key of a section: its text goes to `text`, or is taken by `fits`, which
 * says whether it may be; null: anything may. */
struct entry_key {
    const char *name;
    const char **text;
    bool (*fits)(void *part, const char *text);
    const char *expected;
};

/* Reads them; the keys end with one that has no name. `part` is what their
 * `fits` get. */
void entries_read(struct problems *problems, const struct ini_section *section,
                  const struct entry_key *keys, void *part);

/* Each a `fits`: a whole path; yes or no. */
bool entry_is_path(void *part, const char *text);
bool entry_is_yes_or_no(void *part, const char *text);

/* Where the section is, for what is wrong with all of it. */
struct place entries_place(const struct ini_section *section);

#endif
