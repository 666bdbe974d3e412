/* A simulated AVR under test: each read of a general purpose register gives
 * the next byte of the recording, and what is said is written to another. */
#include <avr/io.h>

#include "../vectors/target.h"

/* GPIOR1 says what is wrong with the byte: 1 at the end of the recording. */
int target_next(void)
{
    uint8_t byte = GPIOR0;
    return GPIOR1 ? -1 : byte;
}

void target_say(const char *text)
{
    while (*text)
        GPIOR0 = (uint8_t)*text++;
    GPIOR0 = '\n';
}

void target_mark(enum target_mark mark)
{
    GPIOR2 = (uint8_t)mark;
}

/* A second byte in GPIOR1 ends the simulation. */
void target_exit(int code)
{
    GPIOR1 = (uint8_t)code;
    for (;;)
        ;
}
