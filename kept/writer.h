/* Who writes to the disk for a controller: a process of its own, so that no
 * pass waits for one. It has the journal, and beside it the ring of events. */
#ifndef CUPLATCH_KEPT_WRITER_H
#define CUPLATCH_KEPT_WRITER_H

#include "cuplatch/journal.h"

struct writer;

/* Starts it for a journal at a path, for a plan. Null, and `wrong` (of `size`
 * bytes) says why: as cup_file_store_open(). */
struct writer *writer_open(const char *path, CUP_FLASH struct cup_plan *plan,
                           char *wrong, size_t size);

/* Waits until all is written; false when it could not be. */
bool writer_close(struct writer *writer);

/* What cup_journal_open() takes: an entry counts as written when it is handed
 * over; one that could not be is told by the next. */
const struct cup_store *writer_store(const struct writer *writer);

/* Whether an entry is not yet known to be on the disk. */
bool writer_waits(const struct writer *writer);

/* Keeps a line of the ring of events. */
void writer_event(struct writer *writer, const char *line);

/* Can be read when something was confirmed; then take it. False when the
 * process is gone. */
int writer_fd(const struct writer *writer);
bool writer_turn(struct writer *writer);

#endif
