/* A window smooths raw samples: `trimmed N K` keeps the last N, drops the K
 * lowest and the K highest and takes the mean of the rest. `median N` is
 * trimmed N (N-1)/2 and `mean N` is trimmed N 0, so one block does all three.
 *
 * Works from the first sample on: while filling with n < N samples,
 * min(K, (n-1)/2) are dropped at each end. Only good samples go in. The cost
 * of a sample grows with N, never with a sort.
 *
 * In use:
 *
 *     const struct cup_window median5 = {.size = 5, .trim = 2};
 *     struct cup_window_state state = {0};
 *     cup_window_add(median5, &state, cells, order, raw);
 *     struct cup_mean mean = cup_window_mean(median5, &state, cells); */
#ifndef CUPLATCH_WINDOW_H
#define CUPLATCH_WINDOW_H

#include "curve.h"

CUP_C_BEGINS

#define CUP_WINDOW_MAX 31

/* `size` is odd, 1 to CUP_WINDOW_MAX; `trim` at most (size-1)/2. */
struct cup_window {
    uint8_t size;
    uint8_t trim;
};

/* Where the next sample goes and how many there are. All zero is empty. */
struct cup_window_state {
    uint8_t next;
    uint8_t count;
};

/* Takes one sample in, the oldest out when full. `cells` holds the samples,
 * sorted, and `order` when each came; both are the caller's, shape.size long.
 */
void cup_window_add(struct cup_window shape, struct cup_window_state *state,
                    uint16_t *cells, uint8_t *order, uint16_t sample);

/* The smoothed value as an undivided mean; count is 0 when empty. */
struct cup_mean cup_window_mean(struct cup_window shape,
                                const struct cup_window_state *state,
                                const uint16_t *cells);

/* Highest less lowest of the samples in the window, in raw counts. */
uint16_t cup_window_spread(const struct cup_window_state *state,
                           const uint16_t *cells);

static inline void cup_window_clear(struct cup_window_state *state)
{
    state->next = 0;
    state->count = 0;
}

CUP_C_ENDS

#endif
