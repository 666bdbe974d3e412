/* Events on disk: lines of JSON in a bounded ring of files, "events" the
 * newest, "events.1" to "events.3" what came before. */
#ifndef CUPLATCH_KEPT_RING_H
#define CUPLATCH_KEPT_RING_H

#include <stdbool.h>
#include <stddef.h>

/* All files together take no more than this. */
#define RING_FILES 4
#define RING_FILE_BYTES ((long)4 * 1024 * 1024)

struct ring;

/* Opens the ring beside a file, "DIR/events"; made if need be. A last line that
 * was cut short by a death is ended. Null with errno. */
struct ring *ring_open(const char *beside);
void ring_close(struct ring *ring);

/* Adds a line, its end is added. False when it could not be written whole. */
bool ring_add(struct ring *ring, const char *line);

/* That what was added is on the disk. */
bool ring_sync(struct ring *ring);

/* Reads the newest lines, at most so many, the oldest first. */
void ring_read(const char *beside, size_t most,
               void (*take)(void *self, const char *line), void *self);

#endif
