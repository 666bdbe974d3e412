/* The kernel's. */
#include "clock.h"

#include <time.h>

int64_t clock_ms(void)
{
    struct timespec now;
    clock_gettime(CLOCK_BOOTTIME, &now);
    return (int64_t)now.tv_sec * 1000 + now.tv_nsec / 1000000;
}
