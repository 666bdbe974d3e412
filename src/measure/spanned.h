/* Parts of a span that its own files share; of use to nobody else. */
#ifndef CUPLATCH_MEASURE_SPANNED_H
#define CUPLATCH_MEASURE_SPANNED_H

#include "cuplatch/span.h"

#if CUP_USES_SPANS

/* All that a tank can hold, in parts. */
#define SPAN_MOST ((uint32_t)CUP_SPAN_FULL * CUP_SPAN_PARTS)

static inline void span_set(struct cup_span_state *state, unsigned flags,
                            bool on)
{
    cup_set_bits(&state->flags, flags, on);
}

static inline int32_t span_higher(int32_t a, int32_t b)
{
    return a > b ? a : b;
}

/* What a rate moves in so long, in parts. */
static inline uint32_t span_moved(uint32_t rate, uint32_t ms)
{
    uint64_t parts = ((uint64_t)rate * ms) >> 10;
    uint32_t most = SPAN_MOST;
    return parts > most ? most : (uint32_t)parts;
}

/* drawn.c: what must have fallen, and did not. A pump is about to begin or to
 * cease to draw, or to give; it did, and something draws now. */
void cup_in_drawn_before(CUP_FLASH struct cup_span *span,
                         struct cup_span_state *state, uint32_t now_ms,
                         bool apart, bool on);
void cup_in_drawn_after(CUP_FLASH struct cup_span *span,
                        struct cup_span_state *state, uint32_t now_ms, bool on);

/* A reading that is sure; and one that is believed from now on though nothing
 * moved there. */
void cup_in_drawn_see(CUP_FLASH struct cup_span *span,
                      struct cup_span_state *state, uint32_t now_ms,
                      int32_t reading);
void cup_in_drawn_anew(struct cup_span_state *state, uint32_t now_ms,
                       int32_t reading);

#endif

#endif
