/* The sorted window, as contracts: nothing is read or written outside the
 * cells, the sorted half stays sorted, and a mean is of one sample at least. */
#include "cuplatch/window.h"

/*@ predicate ascending(uint16_t *a, integer from, integer to) =
        \forall integer i, j; from <= i <= j < to ==> a[i] <= a[j];
    predicate has(uint16_t *a, integer from, integer to, integer v) =
        0 <= from <= to && \exists integer k; from <= k < to && a[k] == v;
*/

/*@ requires count < CUP_WINDOW_MAX;
    requires \valid(sorted + (0 .. count));
    requires ascending(sorted, 0, count);
    assigns sorted[0 .. count];
    ensures ascending(sorted, 0, count + 1);
*/
static void insert(uint16_t *sorted, unsigned count, uint16_t sample);

/*@ requires 1 <= size <= CUP_WINDOW_MAX;
    requires \valid(sorted + (0 .. size - 1));
    requires ascending(sorted, 0, size);
    requires has(sorted, 0, size, leaving);
    assigns sorted[0 .. size - 1];
    ensures ascending(sorted, 0, size);
*/
static void exchange(uint16_t *sorted, unsigned size, uint16_t leaving,
                     uint16_t sample);

/*@ predicate shape_holds(struct cup_window s) =
        1 <= s.size <= CUP_WINDOW_MAX && 2 * s.trim < s.size;
    predicate state_holds(struct cup_window s, struct cup_window_state *w) =
        w->next < s.size && w->count <= s.size;
*/

/* That the oldest sample is among the sorted ones is taken for granted here:
 * both halves hold the same samples, which tests show and this does not. */
/*@ requires shape_holds(shape);
    requires \valid(state) && \valid(cells + (0 .. 2 * shape.size - 1));
    requires \separated(state, cells + (0 .. 2 * shape.size - 1));
    requires state_holds(shape, state);
    requires ascending(cells + shape.size, 0, state->count);
    requires same_samples: state->count == shape.size ==>
        has(cells + shape.size, 0, shape.size, cells[state->next]);
    assigns *state, cells[0 .. 2 * shape.size - 1];
    ensures state_holds(shape, state);
    ensures counted: state->count ==
        (\old(state->count) < shape.size ? \old(state->count) + 1
                                         : shape.size);
    ensures kept: cells[\old(state->next)] == sample;
    ensures round: state->next == (\old(state->next) + 1) % shape.size;
    ensures sorted: ascending(cells + shape.size, 0, state->count);
*/
void cup_window_add(struct cup_window shape, struct cup_window_state *state,
                    uint16_t *cells, uint16_t sample);

/*@ requires shape_holds(shape) && \valid_read(state);
    requires \valid_read(cells + (0 .. 2 * shape.size - 1));
    requires state_holds(shape, state);
    assigns \nothing;
    ensures empty: state->count == 0 ==> \result.count == 0;
    ensures some: state->count > 0 ==>
                  1 <= \result.count <= state->count;
    ensures \result.sum <= \result.count * 65535;
*/
struct cup_mean cup_window_mean(struct cup_window shape,
                                const struct cup_window_state *state,
                                const uint16_t *cells);

/*@ requires shape_holds(shape) && \valid_read(state);
    requires \valid_read(cells + (0 .. 2 * shape.size - 1));
    requires state_holds(shape, state);
    requires sorted: state->count > 0 ==>
        cells[shape.size] <= cells[shape.size + state->count - 1];
    assigns \nothing;
    ensures state->count == 0 ==> \result == 0;
    ensures state->count > 0 ==> \result ==
        cells[shape.size + state->count - 1] - cells[shape.size];
*/
uint16_t cup_window_spread(struct cup_window shape,
                           const struct cup_window_state *state,
                           const uint16_t *cells);

#include "../../src/measure/window.c"
