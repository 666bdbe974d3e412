/* Every plain line that is switched: held once, off from the same call on, by
 * the guardian, whose workers inherit it. */
#ifndef CUPLATCH_PORTS_OUTLETS_H
#define CUPLATCH_PORTS_OUTLETS_H

#include "../../pins/pins.h"
#include "guardian.h"

/* A line of those held; `held` -1: it is none of the machine's lines. */
struct outlet {
    int held;
    uint64_t bit;
    bool off;
};

/* `found` are the ports of those that were on when they were taken over, for
 * people; empty if none was. */
struct outlets {
    struct outlet (*outputs)[2];
    struct outlet *supplies;
    struct outlet *lamps;
    struct guarded_lines lines[GUARDED_MOST];
    size_t line_count;
    struct guarded_lines others[GUARDED_MOST / 2];
    size_t other_count; /* those that are no pump's, which come after */
    char found[200];
};

/* Holds them all, off. False, and `wrong` says which could not be had; none is
 * held then. */
bool outlets_open(struct outlets *outlets, const struct wiring *wiring,
                  const struct cup_plan *plan, struct place *where, char *wrong,
                  size_t size);
void outlets_close(struct outlets *outlets);

/* Puts a line high or low. */
bool outlet_put(const struct outlet *outlet, bool high);

#endif
