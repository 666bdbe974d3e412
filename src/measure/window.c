/* The sliding window: samples in the order they came, and the same sorted.
 * A new sample replaces the oldest in both; the sorted copy is mended by
 * moving only what lies between the two. */
#include "cuplatch/window.h"

/* Sorts a sample in among the `count` that are there. */
static void insert(uint16_t *sorted, unsigned count, uint16_t sample)
{
    unsigned at = count;
    /*@ loop invariant 0 <= at <= count;
        loop invariant ascending(sorted, 0, at);
        loop invariant ascending(sorted, at + 1, count + 1);
        loop invariant \forall integer i, j; 0 <= i < at < j <= count ==>
                       sorted[i] <= sorted[j];
        loop invariant \forall integer j; at < j <= count ==>
                       sample < sorted[j];
        loop assigns at, sorted[0 .. count];
        loop variant at; */
    for (; at > 0 && sorted[at - 1] > sample; at--)
        sorted[at] = sorted[at - 1];
    sorted[at] = sample;
}

/* Sorts a sample in and another out, in one walk from the low end: on to the
 * first of their two places, then moving what lies up to the other. */
static void exchange(uint16_t *sorted, unsigned size, uint16_t leaving,
                     uint16_t sample)
{
    unsigned at = 0;
    if (sample < leaving) {
        /*@ loop invariant has(sorted, at, size, leaving);
            loop invariant \forall integer i; 0 <= i < at ==>
                           sorted[i] < sample;
            loop assigns at;
            loop variant size - at; */
        while (sorted[at] < sample)
            at++;
        /*@ loop invariant 0 <= at <= size;
            loop invariant sample == leaving || has(sorted, at, size, leaving);
            loop invariant ascending(sorted, 0, size);
            loop invariant \forall integer i; 0 <= i < at ==>
                           sorted[i] <= sample;
            loop invariant \forall integer i; at <= i < size ==>
                           sample <= sorted[i];
            loop assigns at, sample, sorted[0 .. size - 1];
            loop variant size - at; */
        while (sample != leaving) {
            uint16_t next = sorted[at];
            sorted[at++] = sample;
            sample = next;
        }
        return;
    }
    /*@ loop invariant has(sorted, at, size, leaving);
        loop invariant \forall integer i; 0 <= i < at ==>
                       sorted[i] <= leaving;
        loop assigns at;
        loop variant size - at; */
    while (sorted[at] != leaving)
        at++;
    /*@ loop invariant 0 <= at < size;
        loop invariant ascending(sorted, 0, size);
        loop invariant \forall integer i; 0 <= i < at ==>
                       sorted[i] <= sample;
        loop assigns at, sorted[0 .. size - 1];
        loop variant size - at; */
    for (; at + 1 < size && sorted[at + 1] < sample; at++)
        sorted[at] = sorted[at + 1];
    sorted[at] = sample;
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
        exchange(sorted, size, *oldest, sample);
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
    const uint16_t *sorted = cells + shape.size;
    const unsigned end = count - drop;
    uint32_t sum = sorted[drop];
    /*@ loop invariant drop < i <= end;
        loop invariant sum <= (i - drop) * 65535;
        loop assigns i, sum;
        loop variant end - i; */
    for (unsigned i = drop + 1; i < end; i++)
        sum += sorted[i];
    return (struct cup_mean){sum, (uint8_t)(end - drop)};
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
