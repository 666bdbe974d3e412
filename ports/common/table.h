/* A host port is a table of functions and its own data. */
#ifndef CUPLATCH_PORTS_TABLE_H
#define CUPLATCH_PORTS_TABLE_H

#include "cuplatch/port.h"

/* The functions of port.h; those from `supply` on may be
 * null where nothing needs them. */
struct cup_port_table {
    uint32_t (*now_ms)(void *self);
    struct cup_sample (*sample)(void *self, cup_index sensor);
    enum cup_error (*drive)(void *self, cup_index pump, bool high);
    enum cup_error (*supply)(void *self, cup_index supply, bool on);
    enum cup_error (*move)(void *self, cup_index pump, uint16_t place_pct100,
                           int way);
    size_t (*bytes)(void *self, cup_index thing, uint8_t *bytes, size_t size);
    void (*light)(void *self, cup_index lamp, uint8_t lit);
    bool (*closed)(void *self, cup_index button);
    void (*tell)(void *self, const struct cup_event *event);
    void (*feed)(void *self);
};

struct cup_port {
    const struct cup_port_table *table;
    void *self;
};

#endif
