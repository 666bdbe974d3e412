/* Curves as a board looks them up whose marks are counts and whose values are
 * of 16 bits, against exact rational arithmetic; built by itself. */
#include "../harness/harness.h"
#include "exact.h"

_Static_assert(sizeof(cup_value) == 2, "built narrow");

#define PIECES_MOST 6

/* Any curve that can be made; false when it can't. */
static bool make_curve(struct chance *chance, struct cup_point *points,
                       struct cup_knot *knots, struct cup_curve *curve)
{
    uint8_t count = (uint8_t)chance_between(chance, 2, PIECES_MOST);
    int widest = chance_of(chance, 50) ? 60 : 65535 / count;
    int x = chance_between(chance, 0, 65535 - count * widest);
    for (uint8_t i = 0; i < count; i++) {
        points[i].x = (uint16_t)x;
        points[i].y = chance_between(chance, INT16_MIN, INT16_MAX);
        x += chance_between(chance, 1, widest);
    }
    *curve = (struct cup_curve){knots, count, true};
    return !cup_curve_make(knots, points, count, true);
}

/* What it has to say of a mean: from the piece that holds it, or an end. */
static int32_t clamped(const struct cup_point *points, uint8_t count,
                       struct cup_mean mean)
{
    uint8_t at = 0;
    if (mean.sum <= (uint32_t)points[0].x * mean.count)
        return points[0].y;
    while (at < count && mean.sum >= (uint32_t)points[at].x * mean.count)
        at++;
    return at == count ? points[count - 1].y
                       : exact(&points[at - 1], &points[at], mean);
}

CASE(every_input_is_exact_bit_by_bit)
{
    struct chance chance = chance_from(harness_seed());
    int made = 0;
    while (made < 60 && !harness_failed()) {
        struct cup_point points[PIECES_MOST] = {{0, 0}};
        struct cup_knot knots[PIECES_MOST] = {{0}};
        struct cup_curve curve;
        if (!make_curve(&chance, points, knots, &curve))
            continue;
        made++;
        harness_at("curve %d", made);
        for (uint32_t x = 0; x <= UINT16_MAX && !harness_failed(); x++)
            CHECK_INT(cup_curve_value(&curve, (uint16_t)x),
                      clamped(points, curve.count, (struct cup_mean){x, 1}));
    }
    harness_at(NULL);
}

CASE(means_are_exact_bit_by_bit)
{
    struct chance chance = chance_from(harness_seed());
    for (int i = 0; i < 400000 && !harness_failed(); i++) {
        struct cup_point points[PIECES_MOST] = {{0, 0}};
        struct cup_knot knots[PIECES_MOST] = {{0}};
        struct cup_curve curve;
        if (!make_curve(&chance, points, knots, &curve))
            continue;
        static const uint8_t counts[] = {1, 2, 3, 4, 5, 6, CUP_MEAN_PARTS};
        uint8_t count = counts[chance_between(&chance, 0, 6)];
        uint32_t from = (uint32_t)points[0].x * count;
        uint32_t to = (uint32_t)points[curve.count - 1].x * count;
        struct cup_mean mean = {
            (uint32_t)chance_between(&chance, (int)from, (int)to), count};
        harness_at("sum %u of %d", mean.sum, count);
        CHECK_INT(cup_curve_at(&curve, mean),
                  clamped(points, curve.count, mean));
    }
    harness_at(NULL);
}

/* Not clamped, on both sides of its knots; as an echo's, from nothing on. */
CASE(a_curve_goes_on_exactly_bit_by_bit)
{
    static const struct {
        struct cup_point points[2];
        uint16_t from;
        uint16_t to;
    } rows[] = {{{{0, 0}, {10000, 17171}}, 0, 19000},
                {{{2000, -1}, {2002, 0}}, 0, 60000},
                {{{1000, -5500}, {3000, 12500}}, 0, 4000},
                {{{40000, 5}, {40010, -5}}, 10000, 65535}};
    for (size_t i = 0; i < sizeof(rows) / sizeof(rows[0]); i++) {
        struct cup_knot knots[2];
        struct cup_curve curve = {knots, 2, false};
        CHECK_INT(cup_curve_make(knots, rows[i].points, 2, false), CUP_OK);
        harness_at("row %zu", i);
        for (uint32_t x = rows[i].from; x <= rows[i].to; x++)
            for (uint8_t count = 1; count <= 6 && !harness_failed(); count++) {
                uint32_t more = x < rows[i].to ? (x * 7) % count : 0;
                struct cup_mean mean = {x * count + more, count};
                CHECK_INT(cup_curve_at(&curve, mean),
                          exact(&rows[i].points[0], &rows[i].points[1], mean));
            }
    }
    harness_at(NULL);
}
