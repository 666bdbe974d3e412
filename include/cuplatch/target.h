/* What a target is told apart by: where tables are, how wide numbers are, what
 * is built small. Nobody but base.h includes it. */
#ifndef CUPLATCH_TARGET_H
#define CUPLATCH_TARGET_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

#include "uses.h"

/* Around what is public: C++ finds it under its C name, and so does who links
 * with a shared library, which shows nothing else. */
#ifdef CUP_SHARED
#define CUP_SHOWN_BEGINS _Pragma("GCC visibility push(default)")
#define CUP_SHOWN_ENDS _Pragma("GCC visibility pop")
#else
#define CUP_SHOWN_BEGINS
#define CUP_SHOWN_ENDS
#endif
#ifdef __cplusplus
#define CUP_C_BEGINS                                                           \
    CUP_SHOWN_BEGINS extern "C"                                                \
    {
#define CUP_C_ENDS                                                             \
    }                                                                          \
    CUP_SHOWN_ENDS
/* What is checked while it compiles. */
#define CUP_ASSERT(holds, text) static_assert(holds, text)
#else
#define CUP_C_BEGINS CUP_SHOWN_BEGINS
#define CUP_C_ENDS CUP_SHOWN_ENDS
#define CUP_ASSERT(holds, text) _Static_assert(holds, text)
#endif

/* Tables that the program never writes. On parts where const data would be
 * copied to RAM this puts them in flash; elsewhere it is plain const. */
#ifdef __AVR__
#define CUP_FLASH const __flash
#else
#define CUP_FLASH const
#endif

/* A text of the program, within a function: it is where tables are. */
#ifdef __AVR__
#define CUP_TEXT(text)                                                         \
    (__extension__({                                                           \
        static CUP_FLASH char in_flash[] = text;                               \
        &in_flash[0];                                                          \
    }))
#else
#define CUP_TEXT(text) (text)
#endif

/* The numbers of a duty: with the plan, but where settings may change them and
 * the plan's are in flash, in RAM. */
#if defined(__AVR__) && (!defined(CUP_USES) || CUP_USES_SETTINGS)
#define CUP_NUMBERS_APART 1
#define CUP_NUMBERS const
#else
#define CUP_NUMBERS_APART 0
#define CUP_NUMBERS CUP_FLASH
#endif

/* Number of a thing in a plan: 8 bits on small targets, 16 on hosts. */
#if defined(__AVR__) || defined(CUP_SMALL)
typedef uint8_t cup_index;
#define CUP_NONE UINT8_MAX
#else
typedef uint16_t cup_index;
#define CUP_NONE UINT16_MAX
#endif

/* A value of a sensor or a tank, or a mark, in the steps of its unit. An 8-bit
 * part whose site can do with 16 bits counts with these. */
#if !CUP_USES_WIDE && (defined(__AVR__) || defined(CUP_NARROW))
#undef CUP_NARROW
#define CUP_NARROW 1
typedef int16_t cup_value;
#else
#undef CUP_NARROW
#define CUP_NARROW 0
typedef int32_t cup_value;
#endif

/* What decides, and the marks that it is compared with: values, or means of
 * counts in sixtieths of one. Where it is the latter a plan has the values of
 * its marks, too, to tell of. */
#if CUP_USES_VALUES
typedef cup_value cup_mark;
typedef uint32_t cup_sum;
#define CUP_MARK(value, counts) (value)
#define CUP_TOLD(of, mark) ((of)->mark)
#else
#ifdef __AVR__
typedef __int24 cup_mark;
typedef __uint24 cup_sum;
#elif defined(CUP_CHECKED)
typedef struct {
    int32_t counts;
} cup_mark;
typedef uint32_t cup_sum;
#else
typedef int32_t cup_mark;
typedef uint32_t cup_sum;
#endif
#define CUP_MARK(value, counts) CUP_AS_MARK_OF_A_PLAN(counts)
#define CUP_TOLD(of, mark) ((of)->mark##_value)
#endif

/* The number of a mark, and a number as a mark. Where marks are counts and
 * invariants are checked a mark is a type of its own, so that a mark that is
 * told as a value does not compile. */
#if !CUP_USES_VALUES && defined(CUP_CHECKED) && !defined(__AVR__)
#define CUP_COUNTS(mark) ((mark).counts)
#define CUP_AS_MARK(number) ((cup_mark){number})
#define CUP_AS_MARK_OF_A_PLAN(number)                                          \
    {                                                                          \
        number                                                                 \
    }
#else
#define CUP_COUNTS(mark) (mark)
#define CUP_AS_MARK(number) ((cup_mark)(number))
#define CUP_AS_MARK_OF_A_PLAN(number) (number)
#endif

/* Layout of plan and state: a number of 16 bits made of the version of their
 * structures, the blocks that are built and the sizes of indexes, values and
 * marks. A plan that was compiled with others than the core is refused. */
#define CUP_LAYOUT ((uint16_t)(CUP_LAYOUT_SIZES CUP_BLOCKS(CUP_LAYOUT_OF)))
#define CUP_LAYOUT_SIZES                                                       \
    (2u + 64u * sizeof(cup_index) + 512u * sizeof(cup_value) +                 \
     4096u * sizeof(cup_mark))
/* What a block adds: far apart, so that no two sets are likely to agree. */
#define CUP_LAYOUT_OF(name)                                                    \
    +(CUP_USES_##name                                                          \
          ? UINT32_C(0x9E3779B1) * (CUP_BLOCK_##name + 3u) *                   \
                    (CUP_BLOCK_##name + 7u) * (CUP_BLOCK_##name + 9u) >>       \
                13                                                             \
          : 0u)

#if defined(__GNUC__)
#define CUP_MUST_USE __attribute__((warn_unused_result))
#else
#define CUP_MUST_USE
#endif

/* Small enough to be put in place of its call; but not where each byte of
 * flash counts. */
#ifdef __AVR__
#define CUP_LEAN __attribute__((noinline, unused))
#else
#define CUP_LEAN inline
#endif

/* Small whatever a compiler thinks that it is. */
#ifdef __AVR__
#define CUP_TINY inline __attribute__((always_inline))
#else
#define CUP_TINY inline
#endif

/* Gives the same whenever it is asked the same. */
#ifdef __AVR__
#define CUP_SAME __attribute__((const))
#else
#define CUP_SAME
#endif

/* Reached by its pointer though a compiler knows where it is: shorter. */
#ifdef __AVR__
#define CUP_BY_POINTER(pointer) __asm__("" : "+r"(pointer))
#else
#define CUP_BY_POINTER(pointer) ((void)0)
#endif

/* Kept out of its caller: their locals would add up on a small stack. */
#ifdef __AVR__
#define CUP_APART __attribute__((noinline))
#else
#define CUP_APART
#endif

#endif
