/* Bytes of RAM that are kept over a reset, as behind a battery, for boards that
 * have no others: a linker script puts them (.keep) where nothing clears them.
 * They are lost with the power, unless something keeps that up. */
#ifndef CUPLATCH_FIRMWARE_KEPT_H
#define CUPLATCH_FIRMWARE_KEPT_H

#include "cuplatch/journal.h"

/* They are made empty when they hold anything else than a journal's bytes. */
const struct cup_store *kept_store(void);

#endif
