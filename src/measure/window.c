/* The sliding window: samples in the order they came, and the same sorted.
 * A new sample replaces the oldest in both; the sorted copy is mended by
 * moving only what lies between the two. */
#include "cuplatch/window.h"

/* Opens a gap at the end, or where the oldest sample leaves. */
static uint8_t gap_for(struct cup_window shape, struct cup_window_state *state,
                       const uint16_t *cells, const uint16_t *sorted)
{
    if (state->count < shape.size)
        return state->count++;
    uint16_t leaving = cells[state->next];
    uint8_t gap = 0;
    while (sorted[gap] != leaving)
        gap++;
    return gap;
}

void cup_window_add(struct cup_window shape, struct cup_window_state *state,
                    uint16_t *cells, uint16_t sample)
{
    uint16_t *sorted = cells + shape.size;
    uint8_t gap = gap_for(shape, state, cells, sorted);
    while (gap > 0 && sorted[gap - 1] > sample) {
        sorted[gap] = sorted[gap - 1];
        gap--;
    }
    while (gap + 1 < state->count && sorted[gap + 1] < sample) {
        sorted[gap] = sorted[gap + 1];
        gap++;
    }
    sorted[gap] = sample;
    cells[state->next] = sample;
    state->next = (uint8_t)(state->next + 1);
    if (state->next == shape.size)
        state->next = 0;
}

struct cup_mean cup_window_mean(struct cup_window shape,
                                const struct cup_window_state *state,
                                const uint16_t *cells)
{
    struct cup_mean mean = {0, 0};
    if (state->count == 0)
        return mean;
    uint8_t drop = (uint8_t)((state->count - 1) / 2);
    if (drop > shape.trim)
        drop = shape.trim;
    const uint16_t *sorted = cells + shape.size;
    for (uint8_t i = drop; i < state->count - drop; i++)
        mean.sum += sorted[i];
    mean.count = (uint8_t)(state->count - 2 * drop);
    return mean;
}

uint16_t cup_window_spread(struct cup_window shape,
                           const struct cup_window_state *state,
                           const uint16_t *cells)
{
    if (state->count == 0)
        return 0;
    const uint16_t *sorted = cells + shape.size;
    return (uint16_t)(sorted[state->count - 1] - sorted[0]);
}
