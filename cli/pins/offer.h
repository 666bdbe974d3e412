/* What this machine offers to be named in a pins file. */
#ifndef CUPLATCH_CLI_PINS_OFFER_H
#define CUPLATCH_CLI_PINS_OFFER_H

/* Prints it in words to paste. Returns an exit code. */
int offer_show(void);

#endif
