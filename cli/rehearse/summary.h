/* What a rehearsal came to, by the garden's own count: for people, and as JSON
 * Lines. */
#ifndef CUPLATCH_CLI_REHEARSE_SUMMARY_H
#define CUPLATCH_CLI_REHEARSE_SUMMARY_H

#include "tally.h"

void summary_print(struct tally *tally, double days);
void summary_json(struct tally *tally, double days);

#endif
