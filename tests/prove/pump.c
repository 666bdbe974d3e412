/* Pumps, as contracts: ready only when nothing of its own says no; every stop
 * begins a rest; tries run out; a lock ends only by a person or by proof; a
 * switch never goes to on by itself. */
#include "flags.h"

/*@ requires \valid_read(state);
    assigns \nothing;
    ensures \result ==> state->no == CUP_REASON_NONE &&
            (state->flags & CUP_PUMP_IS_TRIPPED) == 0 &&
            (state->flags & CUP_PUMP_IS_RESTING) == 0 &&
            (state->flags & CUP_PUMP_IS_BOOTING) == 0;
*/
bool cup_pump_ready(const struct cup_pump_state *state);

/*@ requires \valid(state);
    assigns state->since_ms, state->flags;
    ensures state->since_ms == now_ms;
    ensures off: (state->flags & CUP_PUMP_IS_ON) == 0;
    ensures rests: (state->flags & CUP_PUMP_IS_RESTING) != 0;
    ensures trips_stay: (\old(state->flags) & CUP_PUMP_IS_TRIPPED) != 0 ==>
                        (state->flags & CUP_PUMP_IS_TRIPPED) != 0;
    ensures locks_stay: (\old(state->flags) & CUP_PUMP_IS_LOCKED) != 0 ==>
                        (state->flags & CUP_PUMP_IS_LOCKED) != 0;
*/
void cup_pump_stop(struct cup_pump_state *state, uint32_t now_ms);

/*@ requires \valid(state);
    assigns state->since_ms, state->flags, state->hand_ms;
    ensures state->since_ms == now_ms;
    ensures on: (state->flags & CUP_PUMP_IS_ON) != 0;
*/
void cup_pump_start(struct cup_pump_state *state, uint32_t now_ms);

/*@ requires \valid_read(pump) && \valid(state);
    requires state->trips < 255;
    assigns state->flags, state->trips;
    ensures tripped: (state->flags & CUP_PUMP_IS_TRIPPED) != 0;
    ensures counted: state->trips == \old(state->trips) + 1;
    ensures locked: state->trips > pump->retries ==>
                    (state->flags & CUP_PUMP_IS_LOCKED) != 0;
    ensures \result == CUP_KIND_LOCK <==> state->trips > pump->retries;
*/
enum cup_kind cup_pump_trip(CUP_FLASH struct cup_pump *pump,
                            struct cup_pump_state *state);

/*@ requires \valid(state);
    assigns state->flags, state->trips;
    ensures state->trips == 0;
    ensures (state->flags & (CUP_PUMP_IS_TRIPPED | CUP_PUMP_IS_LOCKED)) == 0;
*/
void cup_pump_clear(struct cup_pump_state *state);

/*@ requires \valid(state);
    assigns state->mode, state->flags, state->hand_ms;
    ensures never_to_hand: state->mode == CUP_MODE_OFF ||
                           state->mode == CUP_MODE_AUTO;
    ensures never_from_off_to_auto:
        (\old(state->flags) & CUP_PUMP_WAS_OFF) != 0 ==>
        state->mode == CUP_MODE_OFF;
*/
void cup_pump_end_hand(struct cup_pump_state *state, uint32_t now_ms);

/*@ requires \valid_read(pump) && \valid_read(state);
    assigns \nothing;
    ensures \result <==> pump->longest_ms > 0 &&
        (uint32_t)(now_ms - state->since_ms) >= pump->longest_ms;
*/
bool cup_pump_ran_longest(CUP_FLASH struct cup_pump *pump,
                          const struct cup_pump_state *state, uint32_t now_ms);

#include "../../src/act/pump.c"
