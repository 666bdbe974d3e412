/* The two that read and write a pump's flags, as contracts. */
#ifndef CUPLATCH_PROVE_FLAGS_H
#define CUPLATCH_PROVE_FLAGS_H

#include "time.h"

#include "cuplatch/pump.h"

/*@ requires \valid(flags);
    assigns *flags;
    ensures on ==> *flags == (uint16_t)(\old(*flags) | bits);
    ensures !on ==> *flags == (uint16_t)(\old(*flags) & (unsigned)(~bits));
*/
static inline void cup_set_bits(uint16_t *flags, unsigned bits, bool on);

/*@ requires \valid_read(state);
    assigns \nothing;
    ensures \result <==> (state->flags & flags) != 0;
*/
static inline bool cup_pump_is(const struct cup_pump_state *state,
                               unsigned flags);

/*@ requires \valid(state);
    assigns state->flags;
    ensures on ==> state->flags == (uint16_t)(\old(state->flags) | flags);
    ensures !on ==> state->flags ==
                   (uint16_t)(\old(state->flags) & (unsigned)(~flags));
*/
static inline void cup_pump_set(struct cup_pump_state *state, unsigned flags,
                                bool on);

#endif
