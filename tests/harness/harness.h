/* A small test harness: named cases, checks that print what was expected and
 * what came, and chances from a seed.
 *
 *     CASE(the_latch_is_off_at_boot)
 *     {
 *         CHECK_INT(state.on, 0);
 *     }
 *
 * A program takes the name of a case to run only that, `--seed N`, and
 * `--to-first-failure`. */
#ifndef CUPLATCH_TESTS_HARNESS_H
#define CUPLATCH_TESTS_HARNESS_H

#include <stdbool.h>
#include <stdint.h>

struct harness_case {
    const char *name;
    void (*run)(void);
    struct harness_case *next;
};

void harness_add(struct harness_case *one);

#define CASE(title)                                                            \
    static void title(void);                                                   \
    __attribute__((constructor)) static void add_##title(void)                 \
    {                                                                          \
        static struct harness_case one = {#title, title, 0};                   \
        harness_add(&one);                                                     \
    }                                                                          \
    static void title(void)

/* Each returns whether it held; a case goes on after a failed check. */
bool check_true(bool holds, const char *text, const char *file, int line);
bool check_int(long long got, long long expected, const char *text,
               const char *file, int line);
bool check_text(const char *got, const char *expected, const char *text,
                const char *file, int line);

#define CHECK(holds) check_true((holds), #holds, __FILE__, __LINE__)
#define CHECK_INT(got, expected)                                               \
    check_int((long long)(got), (long long)(expected), #got, __FILE__, __LINE__)
#define CHECK_TEXT(got, expected)                                              \
    check_text((got), (expected), #got, __FILE__, __LINE__)

/* Says where in a table or a random run a failing check stands; printed with
 * it. The text is kept; null ends it. */
void harness_at(const char *form, ...) __attribute__((format(printf, 1, 2)));

/* Whether a check of this case has failed. */
bool harness_failed(void);

/* How often a case with chances tries: fewer times where a part is slow. */
#ifdef __AVR__
#define HARNESS_ROUNDS(rounds) ((rounds) / 500)
#else
#define HARNESS_ROUNDS(rounds) (rounds)
#endif

/* Chances, the same for the same seed. */
uint32_t harness_seed(void);
struct chance {
    uint64_t state;
};
struct chance chance_from(uint64_t seed);
uint32_t chance_bits(struct chance *chance);
/* From low to high, both included. */
int32_t chance_between(struct chance *chance, int32_t low, int32_t high);
/* True in so many of a hundred. */
bool chance_of(struct chance *chance, int percent);

#endif
