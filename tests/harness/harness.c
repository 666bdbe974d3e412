/* Runs the cases of a program and counts them. */
#include "harness.h"

#include <stdarg.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

static struct harness_case *first;
static struct harness_case **last = &first;
static unsigned failed_checks;
static uint32_t seed = 1;
static char place[200];

void harness_add(struct harness_case *one)
{
    *last = one;
    last = &one->next;
}

uint32_t harness_seed(void)
{
    return seed;
}

bool harness_failed(void)
{
    return failed_checks > 0;
}

void harness_at(const char *form, ...)
{
    va_list rest;
    va_start(rest, form);
    if (form)
        vsnprintf(place, sizeof(place), form, rest);
    else
        *place = '\0';
    va_end(rest);
}

static void fail(const char *file, int line)
{
    failed_checks++;
    printf("%s:%d: ", file, line);
    if (*place)
        printf("(%s) ", place);
}

bool check_true(bool holds, const char *text, const char *file, int line)
{
    if (holds)
        return true;
    fail(file, line);
    printf("expected %s\n", text);
    return false;
}

bool check_int(long long got, long long expected, const char *text,
               const char *file, int line)
{
    if (got == expected)
        return true;
    fail(file, line);
    printf("%s: expected %lld, got %lld\n", text, expected, got);
    return false;
}

bool check_text(const char *got, const char *expected, const char *text,
                const char *file, int line)
{
    if (got && expected && strcmp(got, expected) == 0)
        return true;
    fail(file, line);
    printf("%s:\n  expected %s\n  got      %s\n", text,
           expected ? expected : "(null)", got ? got : "(null)");
    return false;
}

static uint64_t mix(uint64_t z)
{
    z = (z ^ (z >> 30)) * UINT64_C(0xBF58476D1CE4E5B9);
    z = (z ^ (z >> 27)) * UINT64_C(0x94D049BB133111EB);
    return z ^ (z >> 31);
}

/* Mixed twice, so that seeds next to each other do not give the same row of
 * chances, one apart. */
struct chance chance_from(uint64_t from)
{
    return (struct chance){
        mix(mix(from + UINT64_C(0x9E3779B97F4A7C15)) + from)};
}

uint32_t chance_bits(struct chance *chance)
{
    return (uint32_t)(mix(chance->state += UINT64_C(0x9E3779B97F4A7C15)) >> 16);
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

/* Runs one case; returns whether it held. */
static bool run(const struct harness_case *one)
{
    failed_checks = 0;
    *place = '\0';
    one->run();
    printf("%s %s\n", failed_checks ? "FAILED" : "passed", one->name);
    if (failed_checks)
        printf("  again with: %s --seed %u\n", one->name, (unsigned)seed);
    fflush(stdout);
    return failed_checks == 0;
}

/* What the command line asks for. */
struct asked {
    const char *only;
    bool to_first_failure;
};

static struct asked read_words(int argc, char **argv)
{
    struct asked asked = {NULL, false};
    for (int i = 1; i < argc; i++) {
        if (strcmp(argv[i], "--seed") == 0 && i + 1 < argc)
            seed = (uint32_t)strtoul(argv[++i], NULL, 10);
        else if (strcmp(argv[i], "--to-first-failure") == 0)
            asked.to_first_failure = true;
        else
            asked.only = argv[i];
    }
    return asked;
}

int main(int argc, char **argv)
{
    struct asked asked = read_words(argc, argv);
    unsigned passed = 0;
    unsigned failed = 0;
    for (const struct harness_case *one = first; one; one = one->next) {
        if (asked.only && strcmp(asked.only, one->name) != 0)
            continue;
        if (run(one))
            passed++;
        else
            failed++;
        if (asked.to_first_failure && failed > 0)
            break;
    }
    printf("%u passed, %u failed\n", passed, failed);
    return failed > 0 || passed == 0;
}
