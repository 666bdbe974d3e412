/* The latch, as contracts: it changes only past the mark that would change it,
 * never inside its band, and letting go always ends in off. */
#include "time.h"

#include "cuplatch/latch.h"

/*@ predicate past_start(struct cup_latch *l, integer v) =
        l->start < l->stop ? v < l->start : v > l->start;
    predicate past_stop(struct cup_latch *l, integer v) =
        l->start < l->stop ? v > l->stop : v < l->stop;
*/

/*@ requires \valid_read(latch);
    requires latch->start != latch->stop;
    assigns \nothing;
    ensures \result <==> (on ? past_stop(latch, value)
                             : past_start(latch, value));
*/
static bool crossed(const struct cup_latch *latch, bool on, int32_t value);

/*@ requires \valid_read(latch) && \valid(state);
    requires \separated(latch, state);
    requires latch->start != latch->stop;
    requires on_or_off: state->on == 0 || state->on == 1;
    requires state->samples <= 2;
    assigns state->on, state->samples, state->since_ms;
    ensures state->on == 0 || state->on == 1;
    ensures state->samples <= 2;
    ensures \result == (state->on != 0);
    ensures on_only_past_start: \old(state->on) == 0 && state->on == 1 ==>
                                past_start(latch, value);
    ensures off_only_past_stop: \old(state->on) == 1 && state->on == 0 ==>
                                past_stop(latch, value);
    ensures at_once: latch->confirm_ms == 0 && \old(state->on) == 1 &&
                     past_stop(latch, value) ==> state->on == 0;
*/
bool cup_latch_step(const struct cup_latch *latch,
                    struct cup_latch_state *state, uint32_t now_ms,
                    int32_t value, bool sampled);

/*@ requires \valid_read(latch);
    requires latch->start != latch->stop;
    assigns \nothing;
    ensures \result <==> past_stop(latch, value);
*/
bool cup_latch_past_stop(const struct cup_latch *latch, int32_t value);

/*@ requires \valid(state);
    assigns state->on, state->samples;
    ensures state->on == 0 && state->samples == 0;
*/
void cup_latch_release(struct cup_latch_state *state);

/*@ requires \valid_read(latch) && \valid_read(state);
    assigns \nothing;
    ensures state->samples < 2 ==> \result == UINT32_MAX;
    ensures state->samples >= 2 ==> \result <= latch->confirm_ms;
*/
uint32_t cup_latch_left(const struct cup_latch *latch,
                        const struct cup_latch_state *state, uint32_t now_ms);

#include "../../src/decide/latch.c"
