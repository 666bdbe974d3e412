/* A serial line as a pins file says. */
#ifndef CUPLATCH_PORTS_SERIAL_H
#define CUPLATCH_PORTS_SERIAL_H

#include "../../pins/pins.h"

/* Bits a second if nothing else is said. */
#define SERIAL_BAUD 9600

/* What a pin says, or what holds if it says nothing. */
int serial_baud(const struct pin *pin);
const char *serial_frame(const struct pin *pin);

/* Opens it raw; -1, and `wrong` says why. */
int serial_open(const char *device, int baud, const char *frame, char *wrong,
                size_t size);

#endif
