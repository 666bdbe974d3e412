/* The clock that everything here is timed by: it counts while the machine
 * sleeps, too, and nobody sets it. */
#ifndef CUPLATCH_PORTS_CLOCK_H
#define CUPLATCH_PORTS_CLOCK_H

#include <stdint.h>

int64_t clock_ms(void);

#endif
