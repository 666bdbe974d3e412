/* The PIN of a modem's card. One that was refused is not given again, whatever
 * is started anew, until its file changes: three wrong ones lock a card. */
#ifndef CUPLATCH_SERVE_TEXTS_CARD_H
#define CUPLATCH_SERVE_TEXTS_CARD_H

#include <stdbool.h>
#include <stddef.h>

/* The first line of a file, if it may be given; a mark beside `beside` says
 * from now on that it was. False: there is none to be given. */
bool card_pin(const char *pin_file, const char *beside, char *pin, size_t size);

/* It was taken: it may be given again. */
void card_was_right(const char *beside);

#endif
