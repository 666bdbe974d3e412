/* Smoothers against a plain reference that sorts a copy each time. */
#include <stdlib.h>
#include <string.h>

#include "../harness/harness.h"
#include "cuplatch/window.h"

static int by_value(const void *a, const void *b)
{
    return *(const uint16_t *)a - *(const uint16_t *)b;
}

/* The last `n` of `history`, sorted, ends dropped. */
static struct cup_mean reference(const uint16_t *history, size_t length,
                                 struct cup_window shape)
{
    uint16_t sorted[CUP_WINDOW_MAX];
    size_t n = length < shape.size ? length : shape.size;
    memcpy(sorted, history + length - n, n * sizeof(*sorted));
    qsort(sorted, n, sizeof(*sorted), by_value);
    size_t drop = shape.trim < (n - 1) / 2 ? shape.trim : (n - 1) / 2;
    struct cup_mean mean = {0, (uint8_t)(n - 2 * drop)};
    for (size_t i = drop; i < n - drop; i++)
        mean.sum += sorted[i];
    return mean;
}

/* Few different values now and then, so that equal samples meet. */
static uint16_t some_sample(struct chance *chance)
{
    if (chance_of(chance, 30))
        return (uint16_t)chance_between(chance, 500, 503);
    return (uint16_t)chance_between(chance, 0, UINT16_MAX);
}

static void check_shape(struct cup_window shape, int samples,
                        struct chance *chance)
{
    static uint16_t history[1000];
    uint16_t cells[CUP_WINDOW_MAX];
    uint8_t order[CUP_WINDOW_MAX];
    struct cup_window_state state = {0, 0};
    size_t length = 0;
    for (int i = 0; i < samples && !harness_failed(); i++) {
        if (length == 1000) {
            memmove(history, history + 900, 100 * sizeof(*history));
            length = 100;
        }
        history[length++] = some_sample(chance);
        cup_window_add(shape, &state, cells, order, history[length - 1]);
        struct cup_mean got = cup_window_mean(shape, &state, cells);
        struct cup_mean want = reference(history, length, shape);
        CHECK_INT(got.sum, want.sum);
        CHECK_INT(got.count, want.count);
    }
}

CASE(every_smoother_equals_a_sort_on_a_million_samples)
{
    struct chance chance = chance_from(harness_seed());
    int shapes = 0;
    for (uint8_t size = 1; size <= CUP_WINDOW_MAX; size += 2)
        for (uint8_t trim = 0; trim <= (size - 1) / 2; trim++)
            shapes++;
    for (uint8_t size = 1; size <= CUP_WINDOW_MAX; size += 2)
        for (uint8_t trim = 0; trim <= (size - 1) / 2; trim++) {
            harness_at("size %d, trim %d", size, trim);
            check_shape((struct cup_window){size, trim}, 1000000 / shapes + 1,
                        &chance);
        }
}

CASE(an_empty_window_has_no_mean_and_no_spread)
{
    struct cup_window shape = {5, 2};
    struct cup_window_state state = {0, 0};
    uint16_t cells[5] = {5, 6, 7, 8, 9}; /* of before */
    uint8_t order[5] = {4, 0, 1, 2, 3};
    CHECK_INT(cup_window_mean(shape, &state, cells).count, 0);
    CHECK_INT(cup_window_spread(&state, cells), 0);
    cup_window_add(shape, &state, cells, order, 40);
    cup_window_add(shape, &state, cells, order, 10);
    CHECK_INT(cup_window_spread(&state, cells), 30);
    CHECK_INT(cup_window_mean(shape, &state, cells).sum, 50);
    cup_window_clear(&state);
    CHECK_INT(cup_window_mean(shape, &state, cells).count, 0);
}
