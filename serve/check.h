/* Whether the service will find what its file names. */
#ifndef CUPLATCH_SERVE_CHECK_H
#define CUPLATCH_SERVE_CHECK_H

#include "config.h"

/* Who it is then, by its unit; whoever asks is taken for it where there is no
 * such user, or it is no root that asks. */
#define CHECK_USER "cuplatch-serve"

/* Tries every file as that user, in a process of its own; what is wrong is told
 * on stderr, with the file's `path`. How much is. */
int check_files(const struct config *config, const char *path);

#endif
