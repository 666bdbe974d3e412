/* A journal kept in a file, on the host. */
#ifndef CUPLATCH_PORTS_STORE_H
#define CUPLATCH_PORTS_STORE_H

#include <stdio.h>

#include "cuplatch/journal.h"

struct cup_file_store;

/* Opens a file for a plan's journal, or makes one; while it is open no other
 * program can. A journal of ours that cannot be read is set aside under another
 * name beside it, and a new one begun: `said` (may be null) is told where.
 * Null, and `wrong` (of `size` bytes, ended) says why, when it cannot be
 * opened, is in use, or is a file of another kind, which is left as it is.
 * Close it with cup_file_store_close(). */
struct cup_file_store *cup_file_store_open(const char *path,
                                           CUP_FLASH struct cup_plan *plan,
                                           FILE *said, char *wrong,
                                           size_t size);
void cup_file_store_close(struct cup_file_store *store);

/* What cup_journal_open() takes; lives as long as the file is open. */
const struct cup_store *cup_file_store_of(const struct cup_file_store *store);

#endif
