/* From reset to main(): outputs first, then the memory. */
#include "../common/memory.h"

void reset(void);

/* Boards without outputs leave it out. */
__attribute__((weak)) void outputs_safe(void)
{
}

/* A fault stops what counts the watchdog down, so it resets the part. */
static void stop(void)
{
    outputs_safe();
    for (;;)
        ;
}

void reset(void)
{
    outputs_safe();
    begin_memory();
    main();
    stop();
}

void tick(void);
__attribute__((weak)) void tick(void)
{
}

/* The stack, reset, the faults, and the tick of the clock. */
__attribute__((section(".vectors"),
               used)) static const void *const table[16] = {
    [0] = stack_top,    [1] = (void *)reset, [2] = (void *)stop,
    [3] = (void *)stop, [4] = (void *)stop,  [5] = (void *)stop,
    [6] = (void *)stop, [15] = (void *)tick};
