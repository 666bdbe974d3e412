/* What a level may be: a tank of its own, with a ranger that is honest or lies,
 * and what the span makes of it. Here the water is known, so that what is
 * permitted can be held to what is there. */
#include <math.h>
#include <stdio.h>
#include <string.h>

#include "../harness/harness.h"
#include "cuplatch/span.h"

#define S UINT32_C(1000)
#define MINUTE (60 * S)
#define HOUR (60 * MINUTE)
#define WINDOW_MOST 31

/* A tank of 400 L, its ranger, the span, and what pumps move, in L/min. */
struct tank {
    struct cup_span span;
    struct cup_span_state state;
    struct cup_window shape;
    struct cup_window_state window;
    uint16_t cells[WINDOW_MOST];
    uint8_t order[WINDOW_MOST];
    struct chance chance;
    uint32_t now;
    uint32_t every;
    double litres;
    double in, out; /* of pumps that run */
    double noise;   /* one standard deviation, in per cent */
    int spikes;     /* per cent of the samples */
    double lie; /* what it says instead, in per cent; less than 0: the truth */
};

#define HOLDS 400.0

static uint32_t rate_of(double l_min)
{
    return (uint32_t)lround(l_min / HOLDS * CUP_SPAN_FULL / 60 * 1.024 *
                            CUP_SPAN_PARTS);
}

static struct tank tank_at(double percent, uint32_t every,
                           struct cup_window shape)
{
    struct tank tank = {.shape = shape,
                        .chance = chance_from(7701),
                        .every = every,
                        .litres = HOLDS * percent / 100,
                        .noise = 0.12,
                        .lie = -1};
    tank.span = (struct cup_span){.believe_ms = 15 * MINUTE,
                                  .boot_ms = CUP_SPAN_BOOT_MS,
                                  .lag_ms = every * shape.size,
                                  .leap = 400};
    tank.now = (uint32_t)chance_bits(&tank.chance);
    cup_span_boot(&tank.state, tank.now);
    return tank;
}

static double percent_of(const struct tank *tank)
{
    return 100 * tank->litres / HOLDS;
}

static double noise(struct chance *chance)
{
    double sum = 0;
    for (int i = 0; i < 12; i++)
        sum += chance_between(chance, 0, 10000) / 10000.0;
    return sum - 6;
}

static void pump(struct tank *tank, double in, double out)
{
    if (in != tank->in) {
        cup_span_switch(&tank->span, &tank->state, tank->now, true,
                        rate_of(fmax(in, tank->in)), in > 0);
        tank->in = in;
    }
    if (out != tank->out) {
        cup_span_switch(&tank->span, &tank->state, tank->now, false,
                        rate_of(fmax(out, tank->out)), out > 0);
        tank->out = out;
    }
}

static void sample(struct tank *tank, double percent)
{
    long stored = lround(fmin(fmax(percent, 0), 100) * 100);
    cup_window_add(tank->shape, &tank->window, tank->cells, tank->order,
                   (uint16_t)stored);
    struct cup_mean mean =
        cup_window_mean(tank->shape, &tank->window, tank->cells);
    struct cup_span_sample heard = {.level = (int32_t)stored,
                                    .reading = (int32_t)(mean.sum / mean.count),
                                    .shape = tank->shape,
                                    .window = &tank->window,
                                    .order = tank->order};
    cup_span_hear(&tank->span, &tank->state, tank->now, &heard);
    CHECK(tank->state.low <= tank->state.high);
}

/* One sample later. */
static void step(struct tank *tank)
{
    double minutes = tank->every / 60000.0;
    tank->now += tank->every;
    tank->litres += (tank->in - tank->out) * minutes;
    tank->litres = fmin(fmax(tank->litres, 0), HOLDS);
    double says = tank->lie >= 0 ? tank->lie : percent_of(tank);
    says += tank->noise * noise(&tank->chance);
    if (chance_of(&tank->chance, tank->spikes))
        says = chance_between(&tank->chance, 0, 10000) / 100.0;
    sample(tank, says);
}

static void pass(struct tank *tank, uint32_t ms)
{
    for (uint32_t gone = 0; gone < ms; gone += tank->every)
        step(tank);
}

static void settle(struct tank *tank)
{
    pass(tank, 5 * MINUTE);
    CHECK(cup_span_is(&tank->state, CUP_SPAN_KNOWN));
    CHECK(!cup_span_is(&tank->state, CUP_SPAN_LEAPT));
}

static const struct cup_window trimmed = {15, 5}, median = {5, 2},
                               single = {1, 0};

static int32_t owes(const struct tank *tank)
{
    return cup_span_owes(&tank->span, &tank->state, tank->now);
}

/* Honest weeks */

/* Filled when it is low, drawn from by turns, with spikes; its ends are the
 * reading's own but for moments. */
static void honest(struct cup_window shape, uint32_t every, int spikes,
                   double fills, int weeks)
{
    struct tank tank = tank_at(60, every, shape);
    uint32_t steps = (uint32_t)weeks * 7 * 24 * (HOUR / every);
    uint32_t drawing = 0;
    uint32_t wide = 0;
    settle(&tank);
    tank.spikes = spikes;
    for (uint32_t i = 0; i < steps; i++) {
        if (percent_of(&tank) < 35)
            pump(&tank, fills, tank.out);
        if (percent_of(&tank) > 90)
            pump(&tank, 0, tank.out);
        if (drawing > 0 && --drawing == 0)
            pump(&tank, tank.in, 0);
        if (drawing == 0 &&
            chance_between(&tank.chance, 0, (int)(5 * HOUR / every)) == 0) {
            drawing = 20 * MINUTE / every;
            pump(&tank, tank.in, 4.5);
        }
        step(&tank);
        wide += tank.state.high - tank.state.low > 400;
        CHECK(owes(&tank) < 2 * tank.span.leap);
    }
    harness_at("window %d, every %u s, %d %% spikes, %.0f L/min", shape.size,
               (unsigned)(every / S), spikes, fills);
    CHECK_INT(tank.state.leaps, 0);
    CHECK(wide * 1000.0 < steps);
    harness_at(NULL);
}

CASE(an_honest_tank_never_leaps)
{
    honest(trimmed, 2 * S, 2, 8, 10);
    honest(trimmed, 2 * S, 2, 120, 10);
    honest(median, 10 * S, 1, 20, 30);
    honest(single, 60 * S, 0, 8, 60);
    honest(median, 60 * S, 2, 8, 100);
}

/* Lies */

/* An empty tank with a rung at 55 %, for bursts of every length: what may be
 * there never comes to where a pump may draw. */
CASE(a_burst_shorter_than_belief_permits_nothing)
{
    static const struct cup_window *const shapes[] = {&trimmed, &median,
                                                      &single};
    for (size_t k = 0; k < 3; k++)
        for (uint32_t length = 2 * S; length < 13 * MINUTE;
             length += 1 + length * 3 / 2) {
            struct tank tank = tank_at(5, 2 * S, *shapes[k]);
            settle(&tank);
            harness_at("window %d, %u s", tank.shape.size,
                       (unsigned)(length / S));
            for (int again = 0; again < 20; again++) {
                tank.lie = 55;
                for (uint32_t gone = 0; gone < length; gone += tank.every) {
                    step(&tank);
                    CHECK(tank.state.low < 1200);
                }
                tank.lie = -1;
                for (uint32_t gone = 0; gone < 10 * MINUTE;
                     gone += tank.every) {
                    step(&tank);
                    CHECK(tank.state.low < 1200);
                }
            }
            pass(&tank, 20 * MINUTE);
            CHECK(tank.state.high < 800);
            CHECK(!cup_span_is(&tank.state, CUP_SPAN_LEAPT));
        }
    harness_at(NULL);
}

/* Ten minutes of each in turn are no belief either. */
CASE(truth_and_rung_in_turn_permit_nothing)
{
    struct tank tank = tank_at(5, 2 * S, trimmed);
    settle(&tank);
    for (int turn = 0; turn < 50; turn++) {
        tank.lie = turn % 2 == 0 ? 55 : -1;
        for (uint32_t gone = 0; gone < 10 * MINUTE; gone += tank.every) {
            step(&tank);
            CHECK(tank.state.low < 1200);
        }
    }
}

/* A tank that somebody filled is believed after a while, once, and told. */
CASE(what_stays_is_believed_and_told_once)
{
    static const uint32_t paces[] = {2 * S, 60 * S};
    for (size_t i = 0; i < 2; i++) {
        struct tank tank = tank_at(10, paces[i], median);
        settle(&tank);
        tank.litres = HOLDS * 0.8;
        for (uint32_t gone = 0; gone < 12 * MINUTE; gone += tank.every) {
            step(&tank);
            CHECK(tank.state.low < 1200);
        }
        CHECK(tank.state.high > 7800);
        pass(&tank, 25 * MINUTE);
        CHECK(tank.state.low > 7800);
        CHECK(cup_span_is(&tank.state, CUP_SPAN_NEWS));
        CHECK_INT(tank.state.leaps, 1);
        CHECK(tank.state.was < 1100);
    }
}

/* The floor for a minute stops nothing that must be filled on for longer than
 * it must, and never has a full tank filled. */
CASE(the_floor_for_a_minute_fills_no_full_tank)
{
    struct tank tank = tank_at(95, 2 * S, trimmed);
    settle(&tank);
    tank.lie = 0;
    for (uint32_t gone = 0; gone < MINUTE; gone += tank.every) {
        step(&tank);
        CHECK(tank.state.high > 9300);
    }
    tank.lie = -1;
    for (uint32_t gone = 0; gone < HOUR; gone += tank.every) {
        step(&tank);
        CHECK(tank.state.high > 9300);
    }
    CHECK(tank.state.low > 9300);
}

/* Nearer than it can see is the brim where the level was there, or could have
 * come there; else it may be a spider, for ever. */
CASE(a_spider_before_the_ranger_fills_no_tank)
{
    struct tank tank = tank_at(5, 2 * S, median);
    settle(&tank);
    for (uint32_t gone = 0; gone < 48 * HOUR; gone += 60 * S) {
        tank.now += 60 * S;
        cup_span_brim(&tank.span, &tank.state, tank.now);
        CHECK(tank.state.low < 1200);
        CHECK_INT(tank.state.high, CUP_SPAN_FULL);
    }
}

/* A full tank under a spider gives what it has, and no more. */
CASE(under_a_spider_a_full_tank_runs_no_pump_dry)
{
    struct tank tank = tank_at(95, 2 * S, median);
    uint32_t drew = 0;
    settle(&tank);
    cup_span_brim(&tank.span, &tank.state, tank.now += 2 * S);
    CHECK_INT(tank.state.low, CUP_SPAN_FULL);
    pump(&tank, 0, 10);
    for (uint32_t gone = 0; gone < 24 * HOUR && tank.state.low >= 1200;
         gone += 2 * S) {
        tank.now += 2 * S;
        tank.litres -= 10 * 2 / 60.0;
        cup_span_brim(&tank.span, &tank.state, tank.now);
        drew += 2;
    }
    CHECK(percent_of(&tank) > 5);
    CHECK(drew > 20 * 60); /* and it did give most of what there was */
    pump(&tank, 0, 0);
    for (uint32_t gone = 0; gone < 24 * HOUR; gone += 60 * S) {
        cup_span_brim(&tank.span, &tank.state, tank.now += 60 * S);
        CHECK(tank.state.low < 1200);
    }
}

CASE(a_pump_that_fills_to_the_brim_is_believed)
{
    struct tank tank = tank_at(60, 2 * S, median);
    settle(&tank);
    pump(&tank, 40, 0);
    pass(&tank, 3 * MINUTE); /* to 90 % */
    tank.now += 2 * S;
    cup_span_brim(&tank.span, &tank.state, tank.now);
    CHECK_INT(tank.state.low, CUP_SPAN_FULL);
}

/* A rung that falling water uncovers is no leap: the reading just stays. What
 * the pump drew tells, whether its flow is half of what the file says or half
 * as much again; and while the level does fall, it does not. */
CASE(a_rung_that_falling_water_uncovers_is_found_by_what_was_drawn)
{
    static const double wrong[] = {0.55, 1, 1.5};
    for (size_t i = 0; i < 3; i++) {
        struct tank tank = tank_at(90, 2 * S, median);
        uint32_t stuck_s = 0;
        settle(&tank);
        pump(&tank, 0, 6);
        harness_at("flow %.2f", wrong[i]);
        while (percent_of(&tank) > 62) {
            tank.litres += 6 * 2 / 60.0 * (1 - wrong[i]);
            step(&tank);
            CHECK(owes(&tank) < 2 * tank.span.leap);
        }
        tank.lie = 62;
        while (stuck_s < 3600 && owes(&tank) <= 2 * tank.span.leap) {
            step(&tank);
            stuck_s += 2;
        }
        CHECK(!cup_span_is(&tank.state, CUP_SPAN_LEAPT));
        CHECK(stuck_s < 1800);
    }
    harness_at(NULL);
}

/* A loss wipes nothing out. */
CASE(after_a_loss_the_rung_is_no_more_than_before)
{
    struct tank tank = tank_at(5, 2 * S, trimmed);
    settle(&tank);
    for (int again = 0; again < 10; again++) {
        cup_span_lose(&tank.state);
        cup_window_clear(&tank.window);
        tank.lie = 55;
        for (uint32_t gone = 0; gone < 10 * MINUTE; gone += tank.every) {
            step(&tank);
            CHECK(tank.state.low < 1200);
        }
        tank.lie = -1;
        pass(&tank, 10 * MINUTE);
    }
    cup_span_lose(&tank.state);
    tank.now += 10 * S;
    cup_span_brim(&tank.span, &tank.state, tank.now);
    CHECK(tank.state.low < 1200);
}

/* What draws while nothing comes is taken off the lower end, in full. */
CASE(while_it_is_held_draws_count)
{
    struct tank tank = tank_at(30, 2 * S, median);
    settle(&tank);
    pump(&tank, 0, 20);
    for (int i = 0; i < 6 * 30; i++) /* 120 L of the 120 that are there */
        cup_span_miss(&tank.state, tank.now += 2 * S);
    CHECK(tank.state.low < 100);
    CHECK(tank.state.high > 2900);
}

/* What a person saw is believed; a reading that contradicts it is not, by time
 * alone. */
CASE(a_person_who_looked_in_is_believed)
{
    struct tank tank = tank_at(70, 2 * S, median);
    tank.lie = 20;
    settle(&tank);
    cup_span_believe(&tank.state, tank.now, 7000, CUP_SPAN_PERSON);
    tank.state.was = 2000;
    for (uint32_t gone = 0; gone < 48 * HOUR; gone += 60 * S) {
        tank.now += 60 * S - tank.every;
        step(&tank);
        CHECK_INT(tank.state.belief, 7000);
    }
    CHECK(tank.state.high >= 7000 && tank.state.low < 2100);
    /* the ranger was right after all: pumps drew, and it fell as it should */
    pump(&tank, 0, 4);
    for (int i = 0; i < 20 * 30; i++) {
        tank.lie = 20 - 100 * 4.0 / HOLDS * i / 30;
        step(&tank);
    }
    CHECK(tank.state.belief < 1200);
}

/* At boot two minutes and three samples that agree, where nobody knows better.
 */
CASE(at_boot_what_holds_for_two_minutes_is_believed)
{
    struct tank tank = tank_at(50, 2 * S, median);
    pass(&tank, 118 * S);
    CHECK(!cup_span_is(&tank.state, CUP_SPAN_KNOWN));
    pass(&tank, 6 * S);
    CHECK(cup_span_is(&tank.state, CUP_SPAN_KNOWN));
    CHECK_INT(tank.state.leaps, 0);
    tank = tank_at(50, 2 * S, median);
    for (int i = 0; i < 100; i++) { /* it wavers: nothing is believed */
        tank.lie = i % 20 < 10 ? 50 : 20;
        pass(&tank, 6 * S);
    }
    CHECK(!cup_span_is(&tank.state, CUP_SPAN_KNOWN));
    /* what the journal kept is held against what is read */
    tank = tank_at(80, 2 * S, median);
    cup_span_believe(&tank.state, tank.now, 1000, 0);
    for (int i = 0; i < 6 * 60; i++) {
        step(&tank);
        CHECK(tank.state.low < 1200);
    }
    pass(&tank, 2 * HOUR);
    CHECK(tank.state.low > 7800);
}
