/* The sliding window: samples in the order they came, and the same sorted.
 * A new sample replaces the oldest in both; the sorted copy is mended by
 * moving only what lies between the two. */
#include "cuplatch/window.h"

/* Opens a gap at the end, or where the oldest sample leaves. */
static unsigned gap_for(unsigned size, struct cup_window_state *state,
                        const uint16_t *cells, const uint16_t *sorted)
{
    if (state->count < size)
        return state->count++;
    uint16_t leaving = cells[state->next];
    unsigned gap = 0;
    while (sorted[gap] != leaving)
        gap++;
    return gap;
}

void cup_window_add(struct cup_window shape, struct cup_window_state *state,
                    uint16_t *cells, uint16_t sample)
{
    const unsigned size = shape.size;
    uint16_t *sorted = cells + size;
    unsigned gap = gap_for(size, state, cells, sorted);
    const unsigned last = state->count - 1u;
    for (; gap > 0 && sorted[gap - 1] > sample; gap--)
        sorted[gap] = sorted[gap - 1];
    for (; gap < last && sorted[gap + 1] < sample; gap++)
        sorted[gap] = sorted[gap + 1];
    sorted[gap] = sample;
    cells[state->next] = sample;
    unsigned next = state->next + 1u;
    state->next = (uint8_t)(next < size ? next : 0);
}

struct cup_mean cup_window_mean(struct cup_window shape,
                                const struct cup_window_state *state,
                                const uint16_t *cells)
{
    const unsigned count = state->count;
    if (count == 0)
        return (struct cup_mean){0, 0};
    unsigned drop = (count - 1) / 2;
    if (drop > shape.trim)
        drop = shape.trim;
    const uint16_t *at = cells + shape.size + drop;
    const unsigned kept = count - 2 * drop;
    const uint16_t *end = at + kept;
    uint32_t sum = *at++;
    while (at < end)
        sum += *at++;
    return (struct cup_mean){sum, (uint8_t)kept};
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
