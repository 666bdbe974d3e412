/* Changing a key in a site file with every other byte kept. */
#ifndef CUPLATCH_GRAMMAR_EDIT_H
#define CUPLATCH_GRAMMAR_EDIT_H

#include <stdbool.h>
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
 * that at any moment the old or the new file is there, whole. A link is
 * followed; mode and owner stay. Returns 0, or -1 with errno set and the old
 * file untouched. */
int cup_file_replace(const char *path, const char *text);

/* Whether a text may stand in the file; it says itself why not. */
typedef bool cup_edit_check(const char *path, const char *text);

/* What became of a change. */
enum cup_edit_result {
    CUP_EDIT_DONE,
    CUP_EDIT_UNFIT,  /* the check refused it, or a thing is not there */
    CUP_EDIT_FAILED, /* the file cannot be changed: `why` tells */
};

/* Makes edits in a file as it is at this moment, whatever was read of it
 * before: what others wrote meanwhile stays. Only one program at a time does
 * so, and a file that changes under it is read anew. Everything that
 * cup_file_replace() says holds here, too. Errors of `why`: no plain file, more
 * than one name (the other would keep the old text), a zero byte in it, an
 * owner that cannot be kept, somebody else at it, whatever the disk says. */
enum cup_edit_result cup_file_edit(const char *path,
                                   const struct cup_edit *edits, size_t count,
                                   cup_edit_check *check, char *why,
                                   size_t size);

#endif
