/* Marks turned into means of counts: a mean is past one of them just when the
 * value of that mean is past the mark, for every mean that there can be. */
#include "../../sitefile/bake/baking.h"
#include "../harness/harness.h"

#define POINTS_MOST 5
#define FULL CUP_TANK_FULL

/* One sensor, and a tank that it may look down into. */
struct world {
    struct cup_knot knots[POINTS_MOST];
    struct cup_knot filling[POINTS_MOST];
    struct cup_curve curve;
    struct cup_curve fill;
    struct cup_sensor sensor;
    struct cup_tank tank;
    struct cup_plan plan;
};

/* A curve that goes one way, with flat pieces now and then. */
static bool make_curve(struct chance *chance, struct cup_curve *curve,
                       struct cup_knot *knots, int widest, int steepest,
                       bool clamp)
{
    struct cup_point points[POINTS_MOST];
    uint8_t count = (uint8_t)chance_between(chance, 2, POINTS_MOST);
    int x = chance_between(chance, 0, 300);
    int y = chance_between(chance, -20000, 20000);
    int way = chance_of(chance, 50) ? 1 : -1;
    for (uint8_t i = 0; i < count; i++) {
        points[i] = (struct cup_point){(uint16_t)x, y};
        x += chance_between(chance, 1, widest);
        if (chance_of(chance, 90))
            y += way * chance_between(chance, 0, steepest);
    }
    *curve = (struct cup_curve){knots, count, clamp};
    return !cup_curve_make(knots, points, count, clamp);
}

/* How full a tank is, by its depth. */
static bool make_fill(struct chance *chance, struct world *world)
{
    uint16_t middle = (uint16_t)chance_between(chance, 10, 2000);
    uint16_t deep = (uint16_t)(middle + chance_between(chance, 1, 2000));
    struct cup_point points[] = {
        {0, 0}, {middle, chance_between(chance, 1, FULL - 1)}, {deep, FULL}};
    world->fill = (struct cup_curve){world->filling, 3, true};
    world->tank = (struct cup_tank){.fill = &world->fill,
                                    .top = chance_between(chance, 0, 6000),
                                    .step_mm10 = 1};
    return !cup_curve_make(world->filling, points, 3, true);
}

static bool make_world(struct chance *chance, struct world *world)
{
    *world = (struct world){.sensor = {.curve = &world->curve}};
    bool echo = chance_of(chance, 50);
    if (!make_curve(chance, &world->curve, world->knots, echo ? 900 : 300,
                    chance_of(chance, 50) ? 4000 : 60, !echo) ||
        !make_fill(chance, world))
        return false;
    world->sensor.lowest = (uint16_t)chance_between(chance, 0, 400);
    world->sensor.highest =
        (uint16_t)(world->sensor.lowest + chance_between(chance, 1, 1500));
    world->plan = (struct cup_plan){.sensor_count = 1,
                                    .tank_count = 1,
                                    .sensors = &world->sensor,
                                    .tanks = &world->tank};
    return true;
}

static int32_t shown_by(const struct world *world, cup_index thing,
                        struct cup_mean mean)
{
    int32_t value = cup_curve_at(&world->curve, mean);
    return thing == 0 ? value : cup_tank_fill_pct100(&world->tank, value);
}

/* Compares two marks and what bake makes of them, mean by mean. */
static void compare(const struct world *world, cup_index thing, int32_t start,
                    int32_t stop, struct counts counts)
{
    for (uint8_t count = 1; count <= CUP_MEAN_EXACT; count++)
        for (uint32_t sum = (uint32_t)world->sensor.lowest * count;
             sum <= (uint32_t)world->sensor.highest * count; sum++) {
            int32_t mean = (int32_t)(sum * (CUP_MEAN_PARTS / count));
            int32_t value =
                shown_by(world, thing, (struct cup_mean){sum, count});
            CHECK_INT(cup_is_beyond(&counts.start, &counts.stop, mean),
                      cup_is_beyond(&start, &stop, value));
            CHECK_INT(cup_is_beyond(&counts.stop, &counts.start, mean),
                      cup_is_beyond(&stop, &start, value));
            if (harness_failed())
                return;
        }
}

/* A mark within what the thing can show, or a little past it. */
static int32_t some_mark(struct chance *chance, const struct world *world,
                         cup_index thing)
{
    int at =
        chance_between(chance, world->sensor.lowest, world->sensor.highest);
    return shown_by(world, thing, (struct cup_mean){(uint32_t)at, 1}) +
           (chance_of(chance, 30) ? chance_between(chance, -300, 300) : 0);
}

CASE(a_mean_is_past_a_mark_just_when_its_value_is)
{
    struct chance chance = chance_from(harness_seed());
    int compared = 0;
    for (int round = 0; round < 2000 && !harness_failed(); round++) {
        struct world world;
        if (!make_world(&chance, &world))
            continue;
        cup_index thing = (cup_index)chance_between(&chance, 0, 1);
        int32_t start = some_mark(&chance, &world, thing);
        int32_t stop = some_mark(&chance, &world, thing);
        struct counts counts;
        harness_at("round %d, %d to %d", round, (int)start, (int)stop);
        if (start == stop ||
            !bake_pair(&world.plan, thing, start, stop, &counts))
            continue;
        compare(&world, thing, start, stop, counts);
        compared++;
    }
    harness_at(NULL);
    CHECK(compared > 1000);
}

/* One mark, which says by its side which way it is compared. */
CASE(a_single_mark_is_compared_on_its_side)
{
    struct chance chance = chance_from(harness_seed());
    for (int round = 0; round < 100 && !harness_failed(); round++) {
        struct world world;
        if (!make_world(&chance, &world))
            continue;
        cup_index thing = (cup_index)chance_between(&chance, 0, 1);
        int32_t above = some_mark(&chance, &world, thing);
        int32_t counts = bake_count(&world.plan, thing, above, true);
        int32_t side = bake_falls(&world.plan, thing) ? counts + 1 : counts - 1;
        harness_at("round %d, above %d", round, (int)above);
        for (uint32_t x = world.sensor.lowest;
             x <= world.sensor.highest && !harness_failed(); x++)
            CHECK_INT(cup_is_beyond(&counts, &side, (int32_t)x * 60),
                      shown_by(&world, thing, (struct cup_mean){x, 1}) > above);
    }
    harness_at(NULL);
}

/* Marks so near, or a curve so steep, that no mean lies between them. */
CASE(marks_that_no_mean_tells_apart_are_known)
{
    static const struct cup_point steep[] = {{0, 0}, {10, 30000}};
    static const struct cup_point bent[] = {{0, 0}, {10, 500}, {20, 100}};
    struct world world = {.sensor = {.curve = &world.curve, .highest = 20}};
    struct counts counts;
    world.plan = (struct cup_plan){.sensor_count = 1, .sensors = &world.sensor};
    world.curve = (struct cup_curve){world.knots, 2, true};
    CHECK_INT(cup_curve_make(world.knots, steep, 2, true), CUP_OK);
    CHECK(!bake_pair(&world.plan, 0, 3010, 3020, &counts));
    CHECK(bake_pair(&world.plan, 0, 2990, 6010, &counts));
    CHECK_INT(bake_uncounted_thing(&world.plan), CUP_NONE);
    world.curve.count = 3;
    CHECK_INT(cup_curve_make(world.knots, bent, 3, true), CUP_OK);
    CHECK_INT(bake_uncounted_thing(&world.plan), 0);
}
