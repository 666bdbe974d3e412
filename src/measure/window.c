/* The sliding window: samples sorted, each with its place in the circle in
 * which they came. The oldest makes room for a new one, which moves from there
 * to where it belongs. */
#include "cuplatch/window.h"

/* Where the sample of a place in the circle lies. */
static uint8_t find_place(const uint8_t *order, uint8_t size, uint8_t place)
{
    uint8_t at = (uint8_t)(size - 1);
    /*@ loop invariant 0 <= at < size;
        loop assigns at;
        loop variant at; */
    while (at > 0 && order[at] != place)
        at--;
    return at;
}

void cup_window_add(struct cup_window shape, struct cup_window_state *state,
                    uint16_t *cells, uint8_t *order, uint16_t sample)
{
    const uint8_t size = shape.size;
    const uint8_t place = state->next;
    uint8_t at = state->count;
    if (at < size)
        state->count++;
    else
        at = find_place(order, size, place);
    const uint8_t count = state->count;
    const uint8_t last = (uint8_t)(count - 1);
    uint16_t *cell = cells + at;
    uint8_t *tag = order + at;
    /*@ loop invariant 0 <= at < count;
        loop invariant cell == cells + at && tag == order + at;
        loop invariant ascending_but(cells, count, at);
        loop assigns at, cell, tag, cells[0 .. size - 1], order[0 .. size - 1];
        loop variant at; */
    for (; at > 0 && cell[-1] > sample; at--) {
        cell[0] = cell[-1];
        tag[0] = tag[-1];
        cell--;
        tag--;
    }
    /*@ loop invariant 0 <= at < count;
        loop invariant cell == cells + at && tag == order + at;
        loop invariant ascending_but(cells, count, at);
        loop invariant at > 0 ==> cells[at - 1] <= sample;
        loop assigns at, cell, tag, cells[0 .. size - 1], order[0 .. size - 1];
        loop variant count - at; */
    for (; at < last && cell[1] < sample; at++) {
        cell[0] = cell[1];
        tag[0] = tag[1];
        cell++;
        tag++;
    }
    *cell = sample;
    *tag = place;
    state->next = place + 1 == size ? 0 : (uint8_t)(place + 1);
}

struct cup_mean cup_window_mean(struct cup_window shape,
                                const struct cup_window_state *state,
                                const uint16_t *cells)
{
    const uint8_t count = state->count;
    if (count == 0)
        return (struct cup_mean){0, 0};
    uint8_t drop = (uint8_t)(count - 1) / 2;
    if (drop > shape.trim)
        drop = shape.trim;
    const uint8_t end = (uint8_t)(count - drop);
    const uint16_t *cell = cells + drop;
    cup_sum sum = *cell;
    /*@ loop invariant drop < i <= end;
        loop invariant cell == cells + (i - 1);
        loop invariant sum <= (i - drop) * 65535;
        loop assigns i, sum, cell;
        loop variant end - i; */
    for (uint8_t i = (uint8_t)(drop + 1); i < end; i++)
        sum += *++cell;
    return (struct cup_mean){sum, (uint8_t)(end - drop)};
}

uint16_t cup_window_spread(const struct cup_window_state *state,
                           const uint16_t *cells)
{
    if (state->count == 0)
        return 0;
    return (uint16_t)(cells[state->count - 1] - cells[0]);
}
