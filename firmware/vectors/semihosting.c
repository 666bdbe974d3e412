/* An emulated part under test: the recording is a file of the host, reached by
 * the semihosting calls of the Arm architecture, which RISC-V has, too. */
#include <stdint.h>

#include "target.h"

enum { SYS_OPEN = 1, SYS_WRITE0 = 4, SYS_READ = 6, SYS_EXIT_EXTENDED = 0x20 };

#ifdef __riscv
/* The three instructions must be as wide as they were defined. */
static uint32_t call(uint32_t what, const void *with)
{
    register uint32_t a0 __asm__("a0") = what;
    register const void *a1 __asm__("a1") = with;
    __asm__ volatile(".balign 16\n\t.option push\n\t.option norvc\n\t"
                     "slli zero, zero, 0x1f\n\tebreak\n\t"
                     "srai zero, zero, 7\n\t.option pop"
                     : "+r"(a0)
                     : "r"(a1)
                     : "memory");
    return a0;
}
#else
static uint32_t call(uint32_t what, const void *with)
{
    register uint32_t r0 __asm__("r0") = what;
    register const void *r1 __asm__("r1") = with;
    __asm__ volatile("bkpt 0xab" : "+r"(r0) : "r"(r1) : "memory");
    return r0;
}
#endif

static uint8_t buffer[256];
static uint32_t at = sizeof(buffer);

/* Reads a block at a time; what is behind the end is zero. */
int target_next(void)
{
    static uint32_t handle;
    if (!handle) {
        static const char name[] = "recording";
        const uint32_t with[] = {(uint32_t)name, 1, sizeof(name) - 1};
        handle = call(SYS_OPEN, with);
    }
    if (at == sizeof(buffer)) {
        const uint32_t with[] = {handle, (uint32_t)buffer, sizeof(buffer)};
        if (call(SYS_READ, with) == sizeof(buffer))
            return -1;
        at = 0;
    }
    return buffer[at++];
}

void target_say(const char *text)
{
    call(SYS_WRITE0, text);
    call(SYS_WRITE0, "\n");
}

void target_mark(enum target_mark mark)
{
    (void)mark;
}

void target_exit(int code)
{
    /* ADP_Stopped_ApplicationExit */
    const uint32_t with[] = {0x20026, (uint32_t)code};
    call(SYS_EXIT_EXTENDED, with);
}
