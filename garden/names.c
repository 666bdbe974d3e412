/* Finds the things of a garden by their names. */
#include <string.h>

#include "inside.h"

int garden_find(const struct garden *garden, enum place_kind kind,
                const char *name)
{
    int count = kind == VESSEL ? garden->vessel_count : garden->bed_count;
    for (int i = 0; i < count; i++)
        if (strcmp(kind == VESSEL ? garden->vessels[i].name
                                  : garden->beds[i].name,
                   name) == 0)
            return i;
    return -1;
}

int garden_sensor(const struct garden *garden, const char *name)
{
    for (int i = 0; i < garden->sensor_count; i++)
        if (strcmp(garden->sensors[i].name, name) == 0)
            return i;
    return -1;
}

int garden_output(const struct garden *garden, const char *name)
{
    for (int i = 0; i < garden->output_count; i++)
        if (strcmp(garden->outputs[i].name, name) == 0)
            return i;
    return -1;
}
