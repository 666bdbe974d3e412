/* What a linker script says of a part's memory, and how it begins. */
#ifndef CUPLATCH_FIRMWARE_MEMORY_H
#define CUPLATCH_FIRMWARE_MEMORY_H

#include <stdint.h>

extern uint32_t data_from[], data_begin[], data_end[], bss_begin[], bss_end[];
extern uint32_t stack_top[];

int main(void);

/* Puts every output where it does no harm; called before any memory is set up,
 * so it may use none. */
void outputs_safe(void);

/* Values of variables come from flash; the others are zero. */
static inline void begin_memory(void)
{
    const uint32_t *from = data_from;
    for (uint32_t *to = data_begin; to < data_end; to++)
        *to = *from++;
    for (uint32_t *to = bss_begin; to < bss_end; to++)
        *to = 0;
}

#endif
