/* The sorted window, as contracts: nothing is read or written outside of it, it
 * stays sorted, and a mean is of one sample at least. */
#include "cuplatch/window.h"

/*@ predicate ascending(uint16_t *a, integer count) =
        \forall integer i, j; 0 <= i <= j < count ==> a[i] <= a[j];
    predicate ascending_but(uint16_t *a, integer count, integer at) =
        \forall integer i, j; 0 <= i <= j < count && i != at && j != at ==>
        a[i] <= a[j];
*/

/*@ requires 1 <= size <= CUP_WINDOW_MAX;
    requires \valid_read(order + (0 .. size - 1));
    assigns \nothing;
    ensures \result < size;
*/
static uint8_t find_place(const uint8_t *order, uint8_t size, uint8_t place);

/*@ predicate shape_holds(struct cup_window s) =
        1 <= s.size <= CUP_WINDOW_MAX && 2 * s.trim < s.size;
    predicate state_holds(struct cup_window s, struct cup_window_state *w) =
        w->next < s.size && w->count <= s.size;
*/

/*@ requires shape_holds(shape);
    requires \valid(state) && \valid(cells + (0 .. shape.size - 1));
    requires \valid(order + (0 .. shape.size - 1));
    requires \separated(state, cells + (0 .. shape.size - 1),
                        order + (0 .. shape.size - 1));
    requires state_holds(shape, state);
    requires ascending(cells, state->count);
    assigns *state, cells[0 .. shape.size - 1], order[0 .. shape.size - 1];
    ensures state_holds(shape, state);
    ensures counted: state->count ==
        (\old(state->count) < shape.size ? \old(state->count) + 1
                                         : shape.size);
    ensures kept: \exists integer i; 0 <= i < state->count &&
        cells[i] == sample && order[i] == \old(state->next);
    ensures round: state->next == (\old(state->next) + 1) % shape.size;
    ensures sorted: ascending(cells, state->count);
*/
void cup_window_add(struct cup_window shape, struct cup_window_state *state,
                    uint16_t *cells, uint8_t *order, uint16_t sample);

/*@ requires shape_holds(shape) && \valid_read(state);
    requires \valid_read(cells + (0 .. shape.size - 1));
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

/*@ requires \valid_read(state) && state->count <= CUP_WINDOW_MAX;
    requires \valid_read(cells + (0 .. state->count - 1));
    requires sorted: state->count > 0 ==>
        cells[0] <= cells[state->count - 1];
    assigns \nothing;
    ensures state->count == 0 ==> \result == 0;
    ensures state->count > 0 ==> \result ==
        cells[state->count - 1] - cells[0];
*/
uint16_t cup_window_spread(const struct cup_window_state *state,
                           const uint16_t *cells);

#include "../../src/measure/window.c"
