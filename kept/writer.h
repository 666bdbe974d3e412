/* Who writes to the disk for a controller: a process of its own, so that no
 * pass waits for one. It has the journal, and beside it the ring of events. */
#ifndef CUPLATCH_KEPT_WRITER_H
#define CUPLATCH_KEPT_WRITER_H

#include "cuplatch/journal.h"
#include "keeps.h"

struct writer;

/* Starts it for a plan. Null, and `wrong` (of `size` bytes) says why: as
 * cup_file_store_open(), or which directory cannot be written into. */
struct writer *writer_open(const struct writer_keeps *keeps,
                           CUP_FLASH struct cup_plan *plan, char *wrong,
                           size_t size);

/* Waits until all is written; false when it could not be. */
bool writer_close(struct writer *writer);

/* What cup_journal_open() takes: an entry counts as written when it is handed
 * over; one that could not be is told by the next. */
const struct cup_store *writer_store(const struct writer *writer);

/* Whether an entry is not yet known to be on the disk. */
bool writer_waits(const struct writer *writer);

/* Keeps a line of the ring of events. */
void writer_event(struct writer *writer, const char *line);

/* Begins a file of the raw log with its first line; then a row of it. False
 * when the disk is so slow that it had to be left out. */
bool writer_raw_head(struct writer *writer, const char *head);
bool writer_raw(struct writer *writer, const char *row, size_t length);

/* How many rows could not be written since it was asked last. */
unsigned writer_raw_lost(struct writer *writer);

/* Can be read when something was confirmed; then take it, or once a second at
 * the least: a process that died is replaced then, and given all it is to keep.
 * False while there is none. */
int writer_fd(const struct writer *writer);
bool writer_turn(struct writer *writer);

#endif
