/* The sliding window: samples in the order they came, and the same sorted.
 * A new sample replaces the oldest in both; the sorted copy is mended by
 * moving only what lies between the two. */
#include "cuplatch/window.h"

/* Sorts a sample in among the `count` that are there. */
static void insert(uint16_t *sorted, unsigned count, uint16_t sample)
{
    uint16_t *at = sorted + count;
    for (; at > sorted && at[-1] > sample; at--)
        at[0] = at[-1];
    *at = sample;
}

/* Sorts a sample in and another out, in one walk from the low end: on to the
 * first of their two places, then moving what lies up to the other. */
static void exchange(uint16_t *sorted, const uint16_t *end, uint16_t leaving,
                     uint16_t sample)
{
    uint16_t *at = sorted;
    if (sample < leaving) {
        while (*at < sample)
            at++;
        while (sample != leaving) {
            uint16_t next = *at;
            *at++ = sample;
            sample = next;
        }
        return;
    }
    while (*at != leaving)
        at++;
    for (; at + 1 < end && at[1] < sample; at++)
        at[0] = at[1];
    *at = sample;
}

void cup_window_add(struct cup_window shape, struct cup_window_state *state,
                    uint16_t *cells, uint16_t sample)
{
    const unsigned size = shape.size;
    uint16_t *sorted = cells + size;
    uint16_t *oldest = &cells[state->next];
    if (state->count < size)
        insert(sorted, state->count++, sample);
    else if (sample != *oldest)
        exchange(sorted, sorted + size, *oldest, sample);
    *oldest = sample;
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
