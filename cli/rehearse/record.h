/* What a rehearsal leaves behind: events (JSON Lines), levels and the truth
 * beside them (CSV), the raw log (CSV, for replay), and a picture of them. */
#ifndef CUPLATCH_CLI_REHEARSE_RECORD_H
#define CUPLATCH_CLI_REHEARSE_RECORD_H

#include "../../garden/garden.h"
#include "../../ports/common/onlooker.h"
#include "../../sitefile/sitefile.h"

struct record;

/* Makes the directory if need be, and its files. Null, told on stderr, when
 * that cannot be done. `garden` is what knows the truth, or null. */
struct record *record_open(const char *dir, const struct cup_file *file,
                           const struct cup_site *site, uint32_t from_s,
                           struct garden *garden);

/* An event at that second of the rehearsal. */
void record_event(struct record *record, uint64_t now_s,
                  const struct cup_event *event);

/* Gets every pass. */
struct cup_onlooker *record_onlooker(struct record *record);

/* Ends it; draws the picture and tells where things are, as asked. False when
 * something could not be written. */
enum record_end { RECORD_SILENT, RECORD_DRAWS, RECORD_TELLS };
bool record_close(struct record *record, enum record_end end);

#endif
