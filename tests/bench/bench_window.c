/* Takes so many samples into a window and asks for its mean after each.
 *
 * Use: bench_window SIZE TRIM COUNT; COUNT samples are the figure, after as
 * many that fill the window. TRIM -1 is the empty loop. */
#include <stdio.h>
#include <stdlib.h>

#include "cuplatch/window.h"

#define RAWS 4096
static uint16_t raws[RAWS];

int main(int argc, char **argv)
{
    uint16_t cells[CUP_WINDOW_MAX] = {0};
    uint8_t order[CUP_WINDOW_MAX] = {0};
    struct cup_window_state state = {0, 0};
    uint32_t sum = 0;
    uint32_t seed = 1;
    if (argc < 4)
        return 2;
    int trim = atoi(argv[2]);
    struct cup_window shape = {(uint8_t)atoi(argv[1]), (uint8_t)trim};
    for (size_t i = 0; i < RAWS; i++) {
        seed = seed * UINT32_C(1664525) + UINT32_C(1013904223);
        raws[i] = (uint16_t)(5000 + (seed >> 24));
    }
    for (long i = 0; i < atol(argv[3]); i++) {
        uint16_t sample = raws[(size_t)i % RAWS];
        if (trim < 0) {
            sum += sample;
            continue;
        }
        cup_window_add(shape, &state, cells, order, sample);
        sum += cup_window_mean(shape, &state, cells).sum;
    }
    printf("%u\n", (unsigned)sum);
    return 0;
}
