#include "wall.h"

#include <sys/timex.h>

bool wall_is_right(void)
{
    struct timex about = {.modes = 0};
    int state = adjtimex(&about);
    return state >= 0 && state != TIME_ERROR && !(about.status & STA_UNSYNC);
}
