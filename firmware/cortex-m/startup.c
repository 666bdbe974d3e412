/* From reset to main(): outputs first, then the memory. */
#include <stdint.h>

extern uint32_t data_from[], data_begin[], data_end[], bss_begin[], bss_end[];
extern uint32_t stack_top[];

int main(void);
void reset(void);

/* Puts every output where it does no harm; before any memory is set up, so it
 * may use none. Boards without outputs leave it out. */
void outputs_safe(void);
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
    const uint32_t *from = data_from;
    for (uint32_t *to = data_begin; to < data_end; to++)
        *to = *from++;
    for (uint32_t *to = bss_begin; to < bss_end; to++)
        *to = 0;
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
