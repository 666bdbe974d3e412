/* Quantities as a site file says them. */
#ifndef CUPLATCH_ADVICE_QUANTITY_H
#define CUPLATCH_ADVICE_QUANTITY_H

#include "cuplatch/codes.h"

#define QUANTITY_SIZE 24

/* "12.5mm" of 125 steps of the unit, two figures of it; `up` away from zero,
 * else toward it. */
void quantity_text(double steps, uint8_t unit, bool up, char *text,
                   size_t size);

/* "75s", "5m", "2h": rounded up to what people would write. */
void quantity_time(uint64_t ms, char *text, size_t size);

#endif
