/* Units by the symbols that a history has of them. */
#ifndef CUPLATCH_HISTORY_UNITS_H
#define CUPLATCH_HISTORY_UNITS_H

#include <stdint.h>

/* The number of a unit (enum cup_unit) by its symbol, which may be null; that
 * of no unit when there is none of it. */
uint8_t history_unit(const char *symbol);

/* How many steps of it levels are kept in; of what is open or closed,
 * hundredths of the time that it was closed. */
int history_steps_of(uint8_t unit);

#endif
