/* Files that are nobody else's to read. */
#ifndef CUPLATCH_SERVE_COMMON_PRIVATE_H
#define CUPLATCH_SERVE_COMMON_PRIVATE_H

#include <stdbool.h>
#include <sys/stat.h>

#include "../../grammar/inifile.h"

/* Puts a text in the place of a file, made for its owner alone if need be; the
 * old one stays until the new one is whole. Root does so as the owner of its
 * folder. False, with errno set. */
bool private_put(const char *path, const char *text);

/* Reads a file of sections; one that is not there has none. `as_read` is what
 * it was. `take` gets each section, and is false for one that is not as
 * `expected` tells. False, and `wrong` says why. */
typedef bool private_take(void *self, const struct ini_section *section);
bool private_read(const char *path, struct stat *as_read, private_take *take,
                  void *self, const char *expected, char *wrong, size_t size);

/* Whether it is not any more what it was. */
bool private_changed(const char *path, const struct stat *as_read);

#endif
