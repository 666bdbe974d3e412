/* Looked up in the library's own table. */
#include "units.h"

#include <string.h>

#include "cuplatch/codes.h"

uint8_t history_unit(const char *symbol)
{
    for (uint8_t i = CUP_UNIT_NONE + 1; symbol && i < CUP_UNIT_KELVIN; i++)
        if (*symbol && strcmp(cup_unit_symbol(i), symbol) == 0)
            return i;
    return CUP_UNIT_NONE;
}

int history_steps_of(uint8_t unit)
{
    int steps = 1;
    if (!*cup_unit_symbol(unit))
        return 100;
    for (uint8_t i = 0; i < cup_unit_decimals(unit); i++)
        steps *= 10;
    return steps;
}
