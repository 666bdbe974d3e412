/* What host programs do when a checked build finds a broken invariant. */
#include <stdio.h>
#include <stdlib.h>

#include "cuplatch/base.h"

#ifdef CUP_CHECKED
void cup_broken(const char *file, int line)
{
    fprintf(stderr, "%s:%d: an invariant is broken; please report it\n", file,
            line);
    abort();
}
#endif
