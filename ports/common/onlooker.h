/* Watching samples go by: what a sensor said in a pass, taken or not. */
#ifndef CUPLATCH_PORTS_ONLOOKER_H
#define CUPLATCH_PORTS_ONLOOKER_H

#include "cuplatch/site.h"

/* One entry a sensor, the watcher's own. The port sets `sample` and `heard`;
 * after each pass it calls `passed`, which looks and clears what was heard. */
struct cup_seen {
    struct cup_sample sample;
    bool heard;
};

struct cup_onlooker {
    struct cup_seen *sensors;
    void (*passed)(void *self, uint32_t t_ms);
    void *self;
};

#endif
