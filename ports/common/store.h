/* A journal kept in a file, on the host. */
#ifndef CUPLATCH_PORTS_STORE_H
#define CUPLATCH_PORTS_STORE_H

#include "cuplatch/journal.h"

struct cup_file_store;

/* Opens a file for a plan's journal, or makes one. Null, with errno set, when
 * that cannot be done; EINVAL when it is a file of another kind. Close it with
 * cup_file_store_close(). */
struct cup_file_store *cup_file_store_open(const char *path,
                                           CUP_FLASH struct cup_plan *plan);
void cup_file_store_close(struct cup_file_store *store);

/* What cup_journal_open() takes; lives as long as the file is open. */
const struct cup_store *cup_file_store_of(const struct cup_file_store *store);

#endif
