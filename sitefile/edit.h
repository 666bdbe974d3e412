/* Changing a key in a site file with every other byte kept. */
#ifndef CUPLATCH_SITEFILE_EDIT_H
#define CUPLATCH_SITEFILE_EDIT_H

#include <stddef.h>

/* One key of one thing, and the value it gets. */
struct cup_edit {
    const char *thing;
    const char *key;
    const char *value;
};

/* The text of a file with the edits made: the value of a key's line, or a new
 * line after the thing's last key. Comments, spacing and line ends stay. The
 * caller frees it; null when a thing is not in the text. */
char *cup_edit_text(const char *text, const struct cup_edit *edits,
                    size_t count);

/* Reads a whole file into memory, ended by zero. The caller frees it; null,
 * with errno set, when it cannot be read. */
char *cup_file_text(const char *path);

/* Puts `text` in the place of a file: written beside it, synced, renamed, so
 * that at any moment the old or the new file is there, whole. Returns 0, or
 * -1 with errno set and the old file untouched. */
int cup_file_replace(const char *path, const char *text);

#endif
