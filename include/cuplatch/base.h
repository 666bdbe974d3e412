/* What every other header leans on: the version, errors, time that wraps. Needs
 * only freestanding C11 headers.
 *
 * Time is an unsigned count of milliseconds that wraps after 49.7 days; it is
 * compared only by unsigned subtraction. Units are in the names: _ms, _mm10
 * (tenths of a millimetre), _pct100 (hundredths of a per cent), _ml, _cdeg
 * (hundredths of a degree Celsius), _pa, _mv, _ua. */
#ifndef CUPLATCH_BASE_H
#define CUPLATCH_BASE_H

#include "target.h"

#define CUP_VERSION "0.2.0"

/* The caller's mistakes. Zero is success. */
#define CUP_ERRORS(X)                                                          \
    X(OK, "done")                                                              \
    X(ERROR_LAYOUT, "the plan was made for another version of the library")    \
    X(ERROR_SPACE, "the block of memory is too small")                         \
    X(ERROR_RANGE, "a number is outside what the library can hold")            \
    X(ERROR_ORDER, "values that must differ or rise do not")                   \
    X(ERROR_NAME, "there is no such thing in the plan")                        \
    X(ERROR_REFUSED, "refused: it would break a limit of the plan")            \
    X(ERROR_PORT, "the port could not do it")                                  \
    X(ERROR_BUSY, "its pump is switched off, or runs for another")

enum cup_error {
#define X(name, text) CUP_##name,
    CUP_ERRORS(X)
#undef X
        CUP_ERROR_COUNT
};

/* A difference of this much or more is time that went backwards. */
#define CUP_TIME_BACK (UINT32_C(1) << 31)
/* The longest duration a setting may have: 24 days. */
#define CUP_TIME_MAX_MS (UINT32_C(24) * 24 * 3600 * 1000)

/* Milliseconds from `since` to `now`; right across one wrap. */
static inline uint32_t cup_elapsed(uint32_t now_ms, uint32_t since_ms)
{
    return now_ms - since_ms;
}

/* What is left of a duration, 0 when it is over (elapsed >= limit). */
static inline uint32_t cup_left(uint32_t now_ms, uint32_t since_ms,
                                uint32_t limit_ms)
{
    uint32_t gone = now_ms - since_ms;
    return gone >= limit_ms ? 0 : limit_ms - gone;
}

/* Our own mistakes, looked for in debug and test builds only. */
#ifdef CUP_CHECKED
#define CUP_INVARIANT(holds)                                                   \
    ((holds) ? (void)0 : cup_broken(__FILE__, __LINE__))
/* Called when an invariant is broken; the program that asks for checked
 * builds supplies it. Must not return. */
void cup_broken(const char *file, int line);
#else
#define CUP_INVARIANT(holds) ((void)0)
#endif

/* Sets or clears bits of flags; by the byte where a part has no more. */
#ifdef __AVR__
static CUP_TINY void cup_set_bits(uint16_t *flags, unsigned bits, bool on)
{
    uint8_t *bytes = (uint8_t *)flags;
    uint8_t low = (uint8_t)bits;
    uint8_t high = (uint8_t)(bits >> 8);
    if (low)
        bytes[0] = (uint8_t)(on ? bytes[0] | low : bytes[0] & ~low);
    if (high)
        bytes[1] = (uint8_t)(on ? bytes[1] | high : bytes[1] & ~high);
}
#else
static CUP_TINY void cup_set_bits(uint16_t *flags, unsigned bits, bool on)
{
    *flags = (uint16_t)(on ? *flags | bits : *flags & ~bits);
}
#endif

/* Whether a duration of a plan is over; by where its numbers are, so that the
 * smallest parts need not carry them about. */
static CUP_LEAN bool cup_is_over(uint32_t now_ms, const uint32_t *since_ms,
                                 CUP_FLASH uint32_t *limit_ms)
{
    return now_ms - *since_ms >= *limit_ms;
}

/* Whether a duration is over that may be kept apart from its plan. */
#if CUP_NUMBERS_APART
static inline bool cup_is_past(uint32_t now_ms, const uint32_t *since_ms,
                               CUP_NUMBERS uint32_t *limit_ms)
{
    return now_ms - *since_ms >= *limit_ms;
}
#else
#define cup_is_past cup_is_over
#endif

/* Whether a value is past a mark, on the side away from the other of two. */
static CUP_LEAN bool cup_is_beyond(CUP_FLASH cup_mark *mark,
                                   CUP_FLASH cup_mark *other, cup_mark value)
{
    cup_mark edge = *mark;
    return CUP_COUNTS(edge) < CUP_COUNTS(*other)
               ? CUP_COUNTS(value) < CUP_COUNTS(edge)
               : CUP_COUNTS(value) > CUP_COUNTS(edge);
}

/* Whether a value is past a mark that may be kept apart from its plan. */
#if CUP_NUMBERS_APART
static inline bool cup_has_crossed(CUP_NUMBERS cup_mark *mark,
                                   CUP_NUMBERS cup_mark *other, cup_mark value)
{
    cup_mark edge = *mark;
    return CUP_COUNTS(edge) < CUP_COUNTS(*other)
               ? CUP_COUNTS(value) < CUP_COUNTS(edge)
               : CUP_COUNTS(value) > CUP_COUNTS(edge);
}
#else
#define cup_has_crossed cup_is_beyond
#endif

/* Sum and difference held to what 32 bits can hold, instead of wrapping. */
static inline int32_t cup_plus(int32_t a, int32_t b)
{
    if (b > 0 ? a > INT32_MAX - b : a < INT32_MIN - b)
        return b > 0 ? INT32_MAX : INT32_MIN;
    return a + b;
}

static inline int32_t cup_minus(int32_t a, int32_t b)
{
    return -1 - cup_plus(-1 - a, b); /* which overflows for no number */
}

static inline uint32_t cup_least(uint32_t a, uint32_t b)
{
    return a < b ? a : b;
}

static inline uint32_t cup_most(uint32_t a, uint32_t b)
{
    return a > b ? a : b;
}

/* How far two values are apart, which may be too far for a sign. */
static inline uint32_t cup_gap(int32_t a, int32_t b)
{
    return (uint32_t)(a > b ? (int64_t)a - b : (int64_t)b - a);
}

#endif
