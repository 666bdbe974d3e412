/* The clock on the wall, as this machine has it. */
#ifndef CUPLATCH_CONTROLLER_CIVIL_H
#define CUPLATCH_CONTROLLER_CIVIL_H

#include "ready.h"

/* Civil time here, as if it were that of the world; by how much it is ahead. */
uint32_t civil_s(int32_t *ahead_s);

/* Takes the zone that the site file says, if it does. */
void civil_zone(const struct site *site);

/* Whether this machine knows that zone; told on stderr, with the file's path,
 * if not. */
bool civil_zone_is_known(const struct cup_file *file, const char *path);

#endif
