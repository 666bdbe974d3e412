/* The sensors of a site as they read now, over the pins of this machine, for
 * look and calibrate: a stream of lines, as another program would give. */
#ifndef CUPLATCH_CLI_FEED_H
#define CUPLATCH_CLI_FEED_H

#include "cli.h"

/* Sensors are asked at least so often at the bench, whatever the file says. */
#define FEED_EVERY_MS 1000

/* Starts it in a process of its own, whose lines are standard input from then
 * on; no pump is touched, a supply is on while it is needed. Returns an exit
 * code; what is wrong was told. */
int feed_begin(struct words *words, const char *pins);

/* The same plan, asked as often as the stream: it lives till the program ends.
 */
const struct cup_plan *feed_plan(const struct cup_plan *plan);

#endif
