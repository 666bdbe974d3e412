/* From reset to main(): outputs first, then the memory. */
#include "../common/memory.h"

/* Boards without outputs leave it out. */
__attribute__((weak)) void outputs_safe(void)
{
}

/* A fault stops what counts the watchdog down, so it resets the part. */
__attribute__((aligned(4))) static void stop(void)
{
    outputs_safe();
    for (;;)
        ;
}

__attribute__((used)) static void begin(void)
{
    outputs_safe();
    __asm__ volatile("csrw mtvec, %0" : : "r"(stop));
    begin_memory();
    main();
    stop();
}

/* The first instructions: there is no stack before them. */
void reset(void);
__attribute__((naked, used, section(".reset"))) void reset(void)
{
    __asm__ volatile("la sp, stack_top\n\tj begin");
}
