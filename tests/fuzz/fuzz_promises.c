/* Whole sites: the fuzzer's bytes are the chances of a random plan and of its
 * history; the observer of the promises says when one is broken. */
#include "bytes.h"

#include <stdarg.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

/* Its random sites and its observer. */
#include "../core/test_promises.c"

static const uint8_t *next;
static size_t left;

/* In place of the harness: chances are bytes, a failed check is the end. */

struct chance chance_from(uint64_t seed)
{
    return (struct chance){seed};
}

uint32_t chance_bits(struct chance *chance)
{
    uint32_t bits = 0;
    (void)chance;
    for (int i = 0; i < 2 && left > 0; i++, left--)
        bits = bits << 8 | *next++;
    return bits * UINT32_C(65537);
}

int32_t chance_between(struct chance *chance, int32_t low, int32_t high)
{
    uint64_t width = (uint64_t)((int64_t)high - low) + 1;
    return (int32_t)(low + (int64_t)(chance_bits(chance) * width >> 32));
}

bool chance_of(struct chance *chance, int percent)
{
    return chance_between(chance, 1, 100) <= percent;
}

void harness_add(struct harness_case *one)
{
    (void)one;
}

void harness_at(const char *form, ...)
{
    (void)form;
}

bool harness_failed(void)
{
    return false;
}

uint32_t harness_seed(void)
{
    return 0;
}

bool check_true(bool holds, const char *text, const char *file, int line)
{
    if (holds)
        return true;
    printf("%s:%d: %s\n", file, line, text);
    abort();
}

bool check_int(long long got, long long expected, const char *text,
               const char *file, int line)
{
    return check_true(got == expected, text, file, line);
}

bool check_text(const char *got, const char *expected, const char *text,
                const char *file, int line)
{
    return check_true(strcmp(got, expected) == 0, text, file, line);
}

/* So many passes as there are bytes for. */
int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count)
{
    next = bytes;
    left = count;
    play(0, (int)(count / 40) + 1);
    return 0;
}
