/* A file that a command writes: the old one stays until the new one is whole.
 */
#ifndef CUPLATCH_CLI_COMMON_DELIVERY_H
#define CUPLATCH_CLI_COMMON_DELIVERY_H

#include <stdbool.h>
#include <stdio.h>

/* Write to `out` between the two calls. */
struct delivery {
    FILE *out;
    char *path;   /* where links lead */
    char *beside; /* null: it is written in place */
};

/* "-" is standard output. A link is followed; what is no regular file, such as
 * a pipe or a device, is written in place; all else is put together under a
 * name that nobody can guess in the same folder, with the mode, and as far as
 * may be the owner, of the old. False, with errno: it cannot be. */
bool delivery_begin(struct delivery *delivery, const char *path);

/* Puts it in its place if it is `good`; else, or where that fails, nothing is
 * left behind. Whether it is there now. */
bool delivery_end(struct delivery *delivery, bool good);

#endif
