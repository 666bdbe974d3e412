/* The same log by two site files, side by side. */
#ifndef CUPLATCH_CLI_REPLAY_AGAINST_H
#define CUPLATCH_CLI_REPLAY_AGAINST_H

#include "../common/cli.h"

/* Plays the log at a path by the site of the words and by another, and tells
 * where they part first, and what each of their pumps came to. `clock_s` is
 * what the clock showed at the first row; 0: as the log says. Returns an exit
 * code. */
int replay_against(struct words *words, const char *other, const char *log,
                   uint32_t clock_s);

#endif
