/* Curves against exact rational arithmetic in 64 and 128 bits. */
#include "../harness/harness.h"
#include "exact.h"

static int32_t clamped(const struct cup_point *points, struct cup_mean mean)
{
    int32_t value = exact(&points[0], &points[1], mean);
    int32_t low = points[0].y < points[1].y ? points[0].y : points[1].y;
    int32_t high = points[0].y < points[1].y ? points[1].y : points[0].y;
    return value < low ? low : value > high ? high : value;
}

static void check_all_inputs(const struct cup_point *points, bool clamp)
{
    struct cup_knot knots[2];
    struct cup_curve curve = {knots, 2, clamp};
    CHECK_INT(cup_curve_make(knots, points, 2, clamp), CUP_OK);
    for (uint32_t x = 0; x <= UINT16_MAX; x++) {
        struct cup_mean mean = {x, 1};
        int32_t want =
            clamp ? clamped(points, mean) : exact(&points[0], &points[1], mean);
        if (!CHECK_INT(cup_curve_value(&curve, (uint16_t)x), want))
            return;
    }
}

CASE(calibrations_are_exact_for_every_input_and_either_polarity)
{
    struct chance chance = chance_from(harness_seed());
    for (int i = 0; i < 10; i++) {
        uint16_t dry = (uint16_t)chance_between(&chance, 0, UINT16_MAX);
        uint16_t wet = (uint16_t)(dry + chance_between(&chance, 1, 65534));
        struct cup_point points[] = {{dry, 0}, {wet, 10000}};
        struct cup_point turned[] = {{wet, 0}, {dry, 10000}};
        harness_at("dry %d, wet %d", dry, wet);
        check_all_inputs(points, true);
        check_all_inputs(turned, true);
    }
}

CASE(curves_that_go_on_are_exact_on_both_sides_of_zero)
{
    static const struct cup_point curves[][2] = {
        {{0, 0}, {10000, 17171}},           {{20000, -1}, {20002, 0}},
        {{1000, -5500}, {3000, 12500}},     {{40000, 5}, {40010, -5}},
        {{64000, 300000}, {65000, 100000}},
    };
    for (size_t i = 0; i < sizeof(curves) / sizeof(curves[0]); i++) {
        harness_at("curve %d", (int)i);
        check_all_inputs(curves[i], false);
    }
}

CASE(means_are_exact_without_being_divided_first)
{
    struct chance chance = chance_from(harness_seed());
    for (int i = 0; i < 300000 && !harness_failed(); i++) {
        struct cup_knot knots[2];
        struct cup_curve curve = {knots, 2, false};
        struct cup_point points[2] = {
            {(uint16_t)chance_between(&chance, 0, 60000),
             chance_between(&chance, -100000, 100000)},
            {0, chance_between(&chance, -100000, 100000)}};
        points[1].x =
            (uint16_t)(points[0].x + chance_between(&chance, 200, 5000));
        uint8_t count = (uint8_t)chance_between(&chance, 1, 31);
        struct cup_mean mean = {
            (uint32_t)chance_between(&chance, 0, 65535 * count), count};
        if (cup_curve_make(knots, points, 2, false))
            continue;
        CHECK_INT(cup_curve_at(&curve, mean),
                  exact(&points[0], &points[1], mean));
    }
}

/* The longest way up and down in the fewest and the most samples: estimates
 * are at their worst there. */
CASE(the_steepest_means_are_exact)
{
    struct chance chance = chance_from(harness_seed());
    const int32_t most = INT32_C(1) << 26;
    for (int i = 0; i < 300000 && !harness_failed(); i++) {
        struct cup_knot knots[2];
        struct cup_curve curve = {knots, 2, true};
        uint16_t width = (uint16_t)chance_between(&chance, 1025, 65535);
        struct cup_point points[2] = {
            {0, 0}, {width, chance_of(&chance, 50) ? most : -most}};
        uint8_t count = (uint8_t)chance_between(&chance, 1, 31);
        struct cup_mean mean = {
            (uint32_t)chance_between(&chance, 0, width * count), count};
        CHECK_INT(cup_curve_make(knots, points, 2, true), CUP_OK);
        harness_at("width %d, sum %u of %d", width, mean.sum, count);
        CHECK_INT(cup_curve_at(&curve, mean),
                  exact(&points[0], &points[1], mean));
    }
    harness_at(NULL);
}

/* What is as much as 32 bits allow is made, and no more. */
CASE(curves_are_made_up_to_their_limits)
{
    const int32_t most = INT32_C(1) << 26;
    const int32_t top = INT32_C(1) << 30;
    const struct {
        struct cup_point from;
        struct cup_point to;
        bool clamp;
        enum cup_error error;
    } rows[] = {{{0, 0}, {1, 65535}, true, CUP_OK},
                {{0, 0}, {1, 65536}, true, CUP_ERROR_RANGE},
                {{0, 0}, {2000, most}, true, CUP_OK},
                {{0, 0}, {2000, most + 1}, true, CUP_ERROR_RANGE},
                {{0, 0}, {1, 1023}, false, CUP_OK},
                {{0, 0}, {1, 1024}, false, CUP_ERROR_RANGE},
                {{0, top}, {1, top - 5}, true, CUP_OK},
                {{0, top}, {1, top + 1}, true, CUP_ERROR_RANGE},
                {{0, -top}, {1, 5 - top}, true, CUP_OK},
                {{0, -top}, {1, -1 - top}, true, CUP_ERROR_RANGE}};
    for (size_t i = 0; i < sizeof(rows) / sizeof(rows[0]); i++) {
        struct cup_point points[2] = {rows[i].from, rows[i].to};
        struct cup_knot knots[2];
        harness_at("row %zu", i);
        CHECK_INT(cup_curve_make(knots, points, 2, rows[i].clamp),
                  rows[i].error);
    }
    harness_at(NULL);
}

CASE(a_scale_is_rounded_half_up_and_ends_at_what_fits)
{
    struct chance chance = chance_from(harness_seed());
    CHECK(cup_scale(65535, UINT32_MAX, 1) == UINT32_MAX);
    CHECK(cup_scale(1, UINT32_MAX, 1) == UINT32_MAX);
    CHECK(cup_scale(5032, UINT32_C(3133311787), 1079) == UINT32_MAX);
    CHECK(cup_scale(2, 1u << 31, 1) == UINT32_MAX);
    CHECK_INT(cup_scale(1, 1u << 31, 1), 1u << 31);
    for (int i = 0; i < 100000 && !harness_failed(); i++) {
        uint16_t value = (uint16_t)chance_bits(&chance);
        uint32_t times = chance_bits(&chance) >> chance_between(&chance, 0, 31);
        uint32_t per =
            (chance_bits(&chance) >> chance_between(&chance, 0, 31)) | 1;
        uint64_t want = ((uint64_t)value * times + per / 2) / per;
        CHECK_INT(cup_scale(value, times, per),
                  want > UINT32_MAX ? UINT32_MAX : want);
    }
}

CASE(many_pieces_give_the_piece_that_holds_the_input)
{
    struct cup_point points[CUP_CURVE_POINTS];
    struct cup_knot knots[CUP_CURVE_POINTS];
    struct cup_curve curve = {knots, CUP_CURVE_POINTS, true};
    for (int i = 0; i < CUP_CURVE_POINTS; i++)
        points[i] = (struct cup_point){(uint16_t)(100 + i * 37), i * i * 991};
    CHECK_INT(cup_curve_make(knots, points, CUP_CURVE_POINTS, true), CUP_OK);
    for (uint16_t x = 100; x < 100 + 32 * 37; x++) {
        int piece = (x - 100) / 37;
        CHECK_INT(
            cup_curve_value(&curve, x),
            exact(&points[piece], &points[piece + 1], (struct cup_mean){x, 1}));
    }
    CHECK_INT(cup_curve_value(&curve, 0), 0);
    CHECK_INT(cup_curve_value(&curve, 65535), 32 * 32 * 991);
}

CASE(curves_that_cannot_be_are_refused)
{
    struct cup_knot knots[CUP_CURVE_POINTS];
    static const struct cup_point same[] = {{5, 0}, {5, 100}};
    static const struct cup_point turns[] = {{5, 0}, {9, 100}, {7, 200}};
    static const struct cup_point steep[] = {{5, 0}, {6, 100000}};
    static const struct cup_point tall[] = {{0, 0}, {60000, 1 << 27}};
    static const struct cup_point far[] = {{0, INT32_MIN}, {60000, INT32_MAX}};
    static const struct {
        const struct cup_point *points;
        uint8_t count;
        enum cup_error error;
    } wrong[] = {
        {same, 2, CUP_ERROR_ORDER},  {turns, 3, CUP_ERROR_ORDER},
        {steep, 2, CUP_ERROR_RANGE}, {tall, 2, CUP_ERROR_RANGE},
        {far, 2, CUP_ERROR_RANGE},   {same, 1, CUP_ERROR_RANGE},
        {same, 34, CUP_ERROR_RANGE},
    };
    for (size_t i = 0; i < sizeof(wrong) / sizeof(wrong[0]); i++)
        CHECK_INT(cup_curve_make(knots, wrong[i].points, wrong[i].count, true),
                  wrong[i].error);
}
