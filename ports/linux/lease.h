/* Who drives an output that the kernel does not lend: a name of this machine
 * that one program has at a time, and that is free when it ends, however it
 * does. */
#ifndef CUPLATCH_LINUX_LEASE_H
#define CUPLATCH_LINUX_LEASE_H

#include <stdbool.h>

#include "../../pins/pins.h"

#define LEASES_MOST 64

/* Descriptors; all zero is none. */
struct leases {
    unsigned long long names[LEASES_MOST];
    int fds[LEASES_MOST];
    unsigned count;
};

/* Has what is behind a pin: a host and its unit, a device, a bus and its
 * address. True, too, where it is had already; false when another program has
 * it. */
bool lease_take(struct leases *leases, const struct pin *pin);

void leases_let_go(struct leases *leases);

#endif
