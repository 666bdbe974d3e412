/* Time that wraps, as contracts. */
#ifndef CUPLATCH_PROVE_TIME_H
#define CUPLATCH_PROVE_TIME_H

#include "cuplatch/base.h"

/*@ assigns \nothing;
    ensures \result == (uint32_t)(now_ms - since_ms);
*/
static inline uint32_t cup_elapsed(uint32_t now_ms, uint32_t since_ms);

/*@ assigns \nothing;
    ensures over: \result == 0 <==> (uint32_t)(now_ms - since_ms) >= limit_ms;
    ensures left: \result > 0 ==>
                  \result == limit_ms - (uint32_t)(now_ms - since_ms);
    ensures \result <= limit_ms;
*/
static inline uint32_t cup_left(uint32_t now_ms, uint32_t since_ms,
                                uint32_t limit_ms);

/*@ requires \valid_read(since_ms) && \valid_read(limit_ms);
    assigns \nothing;
    ensures \result <==> (uint32_t)(now_ms - *since_ms) >= *limit_ms;
*/
static inline bool cup_is_over(uint32_t now_ms, const uint32_t *since_ms,
                               CUP_FLASH uint32_t *limit_ms);

/*@ requires \valid_read(mark) && \valid_read(other);
    assigns \nothing;
    ensures \result <==> (*mark < *other ? value < *mark : value > *mark);
*/
static inline bool cup_is_beyond(CUP_FLASH cup_mark *mark,
                                 CUP_FLASH cup_mark *other, cup_mark value);

/*@ assigns \nothing;
    ensures \result <= a && \result <= b && (\result == a || \result == b);
*/
static inline uint32_t cup_least(uint32_t a, uint32_t b);

/*@ assigns \nothing;
    ensures INT32_MIN <= a + b <= INT32_MAX ==> \result == a + b;
    ensures a + b > INT32_MAX ==> \result == INT32_MAX;
    ensures a + b < INT32_MIN ==> \result == INT32_MIN;
*/
static inline int32_t cup_plus(int32_t a, int32_t b);

/*@ assigns \nothing;
    ensures INT32_MIN <= a - b <= INT32_MAX ==> \result == a - b;
    ensures a - b > INT32_MAX ==> \result == INT32_MAX;
    ensures a - b < INT32_MIN ==> \result == INT32_MIN;
*/
static inline int32_t cup_minus(int32_t a, int32_t b);

#endif
