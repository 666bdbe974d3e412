#include "edge.h"

#include <stdlib.h>
#include <string.h>
#include <sys/mman.h>

#define PAGE ((size_t)1 << 16) /* of any machine, or several of them */

const uint8_t *edge_copy(const void *bytes, size_t count)
{
    static uint8_t *pages;
    if (!pages) {
        pages = mmap(NULL, 2 * PAGE, PROT_READ | PROT_WRITE,
                     MAP_PRIVATE | MAP_ANONYMOUS, -1, 0);
        if (pages == MAP_FAILED || mprotect(pages + PAGE, PAGE, PROT_NONE))
            abort();
    }
    uint8_t *copy = pages + PAGE - count;
    if (count > 0)
        memcpy(copy, bytes, count);
    return copy;
}
