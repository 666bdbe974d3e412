/* What is shown, as contracts: it is the reading or it stands still, and it
 * stands still for as long as the reading leaves its band. */
#include "time.h"

#include "cuplatch/sensor.h"

/*@ logic integer apart(integer a, integer b) = a > b ? a - b : b - a; */

/*@ assigns \nothing;
    ensures \result == apart(a, b);
*/
static inline uint32_t cup_gap(int32_t a, int32_t b);

#include "../../src/measure/checks.h"

/*@ requires \valid_read(use) && \valid_read(use->sensor);
    requires \valid_read(use->sensor->checks) && \valid_read(use->state);
    requires \valid(use->checks);
    requires \separated(use->checks, use, use->sensor, use->sensor->checks,
                        use->state);
    requires use->sensor->checks->band >= 0;
    assigns *use->checks;
    ensures use->checks->shown == use->state->reading.value ||
            use->checks->shown == \old(use->checks->shown);
    ensures off: use->sensor->checks->steady_ms == 0 ==>
            use->checks->shown == use->state->reading.value;
    ensures first: (\old(use->checks->flags) & 8) == 0 ==>
            use->checks->shown == use->state->reading.value;
    ensures left_band: use->sensor->checks->steady_ms > 0 &&
            (\old(use->checks->flags) & 8) != 0 &&
            apart(use->state->reading.value, \old(use->checks->centre)) >
                use->sensor->checks->band ==>
            use->checks->shown == \old(use->checks->shown) &&
            use->checks->band_ms == now_ms;
    ensures too_soon: use->sensor->checks->steady_ms > 0 &&
            (\old(use->checks->flags) & 8) != 0 &&
            (uint32_t)(now_ms - \old(use->checks->band_ms)) <
                use->sensor->checks->steady_ms ==>
            use->checks->shown == \old(use->checks->shown);
    ensures steady: use->sensor->checks->steady_ms > 0 &&
            (\old(use->checks->flags) & 8) != 0 &&
            apart(use->state->reading.value, \old(use->checks->centre)) <=
                use->sensor->checks->band &&
            (uint32_t)(now_ms - \old(use->checks->band_ms)) >=
                use->sensor->checks->steady_ms ==>
            use->checks->shown == use->state->reading.value;
*/
void cup_checks_steady(const struct cup_sensor_use *use, uint32_t now_ms);

#include "../../src/measure/checks.c"
