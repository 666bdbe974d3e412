/* Many made-up sites at a broker, each with a line of its own, in one thread:
 * twenty things whose levels move, and events of which each is known again by
 * its number. */
#ifndef CUPLATCH_TESTS_CROWD_H
#define CUPLATCH_TESTS_CROWD_H

#include <stdbool.h>

#define CROWD_THINGS 20

struct crowd;

/* `level_ms` and `event_ms` apart, of each site. It aborts where there is no
 * broker. */
struct crowd *crowd_open(int port, const char *base, int sites, int level_ms,
                         int event_ms);

/* Lives for so long. */
void crowd_live(struct crowd *crowd, int ms);

/* As that, with no more events. */
void crowd_calm(struct crowd *crowd, int ms);

/* Events that a site has told. */
long crowd_told(const struct crowd *crowd, int site);

void crowd_close(struct crowd *crowd);

#endif
