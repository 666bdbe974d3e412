/* How late passes come, for who runs them in real time. */
#ifndef CUPLATCH_CONTROLLER_LATENESS_H
#define CUPLATCH_CONTROLLER_LATENESS_H

#include <stdint.h>

/* In tenths of a ms; the last is that and more. */
#define LATE_MOST 2000
struct lateness {
    uint64_t passes;
    uint64_t count[LATE_MOST + 1];
};

void lateness_note(struct lateness *lateness, double late_ms);

/* Tells on stderr how late the last but one in a thousand was. */
void lateness_tell(const struct lateness *lateness);

#endif
