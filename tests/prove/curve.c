/* Curves, as contracts: the piece that is looked up is one of the curve, and
 * holds the input unless that is beyond an end; a clamped curve gives its ends
 * there; rounding moves by one step at most. */
#include "cuplatch/curve.h"

/*@ requires \valid_read(curve);
    requires 2 <= curve->count <= CUP_CURVE_POINTS;
    requires \valid_read(curve->knots + (0 .. curve->count - 1));
    requires 1 <= count <= CUP_MEAN_MOST;
    assigns \nothing;
    ensures 0 <= \result <= curve->count - 2;
    ensures above: \result > 0 ==>
            curve->knots[\result].x * count <= sum;
    ensures below: \result < curve->count - 2 ==>
            curve->knots[\result + 1].x * count > sum;
*/
static unsigned piece_of(CUP_FLASH struct cup_curve *curve, uint32_t sum,
                         uint8_t count);

/*@ requires rest <= parts && 0 < parts < 1073741824;
    requires INT32_MIN <= low < INT32_MAX;
    assigns \nothing;
    ensures \result == low || \result == low + 1;
    ensures down: 2 * rest < parts ==> \result == low;
    ensures up: 2 * rest > parts ==> \result == low + 1;
    ensures away: 2 * rest == parts ==>
            \result == (low >= 0 ? low + 1 : low);
*/
static int32_t round_half_away(int32_t low, uint32_t rest, uint32_t parts);

#include "../../src/measure/curve.c"
