/* What the files of this room share, all of it: from what is known, by a pass,
 * to what is asked for and what is done. */
#ifndef CUPLATCH_SITE_INSIDE_H
#define CUPLATCH_SITE_INSIDE_H

#include "acts.h"
#include "asks.h"

#endif
