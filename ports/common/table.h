/* A host port is a table of functions and its own data. */
#ifndef CUPLATCH_PORTS_TABLE_H
#define CUPLATCH_PORTS_TABLE_H

#include "cuplatch/port.h"

/* The functions of port.h; `feed` and `tell` may be null. */
struct cup_port_table {
    uint32_t (*now_ms)(void *self);
    struct cup_sample (*sample)(void *self, cup_index sensor);
    enum cup_error (*drive)(void *self, cup_index pump, bool high);
    void (*tell)(void *self, const struct cup_event *event);
    void (*feed)(void *self);
};

struct cup_port {
    const struct cup_port_table *table;
    void *self;
};

#endif
