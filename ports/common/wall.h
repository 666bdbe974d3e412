/* The clock on the wall. */
#ifndef CUPLATCH_PORTS_WALL_H
#define CUPLATCH_PORTS_WALL_H

#include <stdbool.h>

/* Whether the kernel says that it is set by the world's. */
bool wall_is_right(void);

#endif
