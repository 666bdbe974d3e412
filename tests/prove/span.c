/* What a level may be, as contracts: the lower end is never above the upper
 * one, both are what a tank can hold, an end moves inward only where a level is
 * believed, and what leapt lies between them. */
#include "time.h"

#include "../../src/measure/spanned.h"

/*@ predicate a_level{L}(integer level) = 0 <= level <= 10000;
    predicate is_span{L}(struct cup_span_state *state) =
        0 <= state->low <= state->high <= 10000;
    logic integer apart(integer a, integer b) = a > b ? a - b : b - a;
*/

/*@ assigns \nothing;
    ensures \result == apart(a, b);
*/
static inline uint32_t cup_gap(int32_t a, int32_t b);

/*@ requires \valid_read(state);
    assigns \nothing;
    ensures \result <==> (state->flags & flags) != 0;
*/
static inline bool cup_span_is(const struct cup_span_state *state,
                               unsigned flags);

/*@ assigns \nothing;
    ensures \result == (a < b ? a : b);
*/
static int32_t span_lower(int32_t a, int32_t b);

/*@ assigns \nothing;
    ensures \result == (a > b ? a : b);
*/
static inline int32_t span_higher(int32_t a, int32_t b);

/*@ requires \valid(state);
    requires is_span(state);
    requires in <= 983040000 && out <= 983040000;
    assigns state->low, state->high, state->low_part, state->high_part;
    ensures is_span(state);
    ensures outward: state->low <= \old(state->low) &&
            state->high >= \old(state->high);
*/
static void widen(struct cup_span_state *state, uint32_t in, uint32_t out);

/*@ requires \valid(state);
    requires a_level(level);
    assigns state->low, state->high, state->low_part, state->high_part;
    ensures is_span(state);
    ensures state->low == level && state->high == level;
*/
static void span_close(struct cup_span_state *state, int32_t level);

/*@ requires \valid(state);
    requires is_span(state);
    requires a_level(state->belief) && a_level(reading);
    assigns state->low, state->high;
    ensures is_span(state);
    ensures outward: state->low <= \old(state->low) &&
            state->high >= \old(state->high);
    ensures both: state->low <= reading <= state->high &&
            state->low <= state->belief <= state->high;
*/
static void reach_out(struct cup_span_state *state, int32_t reading);

/*@ requires \valid(state);
    requires is_span(state);
    requires a_level(low) && a_level(high) && low <= high;
    assigns state->low, state->high;
    ensures is_span(state);
    ensures outward: state->low <= \old(state->low) &&
            state->high >= \old(state->high);
*/
void cup_span_widen(struct cup_span_state *state, int32_t low, int32_t high);

/*@ requires \valid_read(span);
    assigns \nothing;
    ensures long_enough: \result ==>
            (uint32_t)(now_ms - since_ms) >= span->believe_ms &&
            samples >= 3;
*/
static bool span_is_over(CUP_FLASH struct cup_span *span, uint32_t now_ms,
                         uint32_t since_ms, uint16_t samples);

#include "../../src/measure/span.c"
