/* The machine itself. */
#include "machine.h"

const char *machine_root(void)
{
    return "";
}

int machine_pause_ms(void)
{
    return 1000;
}
