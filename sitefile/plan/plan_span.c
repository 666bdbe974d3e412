/* How the level of each tank may leap, and what can move it: its span, once
 * pumps are made. Floats have none: they show no level in between. */
#include <math.h>
#include <stdlib.h>

#include "../inside.h"
#include "cuplatch/say.h"

/* What a sample may be from the belief where the file does not say: this much
 * of the tank, or of its depth, whichever is more. */
#define LEAP_PCT100 400
#define LEAP_MM10 200
#define BELIEVE_MS (15 * 60 * 1000)

/* The fastest that anything moves a tank: full in two and a half seconds. */
#define RATE_MOST (UINT32_C(1) << 28)

/* A flow, in ml a minute, as parts of a tank in 1024 ms. */
static uint32_t rate_of(const struct cup_tank *tank, double ml_min)
{
    double ml = tank->volume->knots[tank->volume->count - 1].y;
    double a_second = ml_min / 60 / ml * CUP_SPAN_FULL;
    return (uint32_t)fmin(ceil(a_second * 1.024 * CUP_SPAN_PARTS), RATE_MOST);
}

/* The most that a step of depth is, at the widest of the tank, times this many.
 */
static int32_t widest(const struct cup_tank *tank, double mm10)
{
    const struct cup_curve *fill = tank->fill;
    double most = 0;
    for (int i = 1; i < fill->count; i++) {
        double rise = (double)fill->knots[i].y - fill->knots[i - 1].y;
        double run = (double)fill->knots[i].x - fill->knots[i - 1].x;
        if (run > 0)
            most = fmax(most, rise / run);
    }
    return (int32_t)lround(fmin(most * mm10 / tank->step_mm10, CUP_TANK_FULL));
}

double plan_mm10_of_ml(const struct cup_tank *tank)
{
    const struct cup_curve *volume = tank->volume;
    double most = 0;
    for (int i = 1; volume && i < volume->count; i++) {
        double ml = (double)volume->knots[i].y - volume->knots[i - 1].y;
        double steps = (double)volume->knots[i].x - volume->knots[i - 1].x;
        if (ml > 0)
            most = fmax(most, steps * tank->step_mm10 / ml);
    }
    return most;
}

/* The narrowest band between dry_below and dry_clear of all that draw from it;
 * a full tank where nothing does. */
static int32_t narrowest(const struct cup_file *file, cup_index thing)
{
    int32_t least = CUP_TANK_FULL;
    for (cup_index i = 0; i < file->plan.pump_count; i++) {
        const struct cup_pump *pump = &file->plan.pumps[i];
        for (uint8_t g = 0; g < pump->guard_count; g++)
            if (pump->guards[g].kind == CUP_GUARD_SOURCE &&
                pump->guards[g].about == thing)
                least = (int32_t)cup_least(
                    (uint32_t)least,
                    (uint32_t)(pump->guards[g].clear - pump->guards[g].mark));
    }
    return least;
}

static int32_t leap_of(struct cup_file *file, const struct thing *thing,
                       const struct cup_tank *tank)
{
    const struct value *value = good_value(thing, "leap");
    int32_t most = narrowest(file, cup_tank_thing(&file->plan, thing->index));
    int32_t leap =
        (int32_t)cup_most(LEAP_PCT100, (uint32_t)widest(tank, LEAP_MM10));
    if (!value)
        return (int32_t)cup_least((uint32_t)leap, (uint32_t)most);
    if (value->number > most || value->number <= 0)
        problem_error(
            &file->problems, value->place,
            "expected more than 0 %% and at most %d.%02d %%, from dry_below "
            "to dry_clear of what draws from it: a wrong reading could "
            "jump over both",
            (int)most / 100, (int)most % 100);
    return value->number;
}

/* How old the oldest sample is that a reading is the mean of. */
static uint32_t lag_of(const struct cup_plan *plan, const struct cup_tank *tank)
{
    const struct cup_sensor *sensor = &plan->sensors[tank->sensor];
    uint32_t every = sensor->every_ms;
    for (int i = 0; sensor->several && i < sensor->several->count; i++)
        every = cup_most(every, plan->sensors[sensor->several->of[i]].every_ms);
    uint64_t lag = (uint64_t)every * (sensor->window.size + 1u) + plan->scan_ms;
    return lag > CUP_TIME_MAX_MS ? CUP_TIME_MAX_MS : (uint32_t)lag;
}

/* What its pumps move of it; of one whose flow nobody told, anything. */
static void set_rates(struct cup_file *file, const struct cup_tank *tank,
                      cup_index about)
{
    for (size_t i = 0; i < file->things.count; i++) {
        const struct thing *thing = &file->things.list[i];
        if (thing->kind != KIND_PUMP)
            continue;
        double flow = number_of(thing, "flow", 0);
        for (uint8_t g = 0; g < CUP_GUARD_COUNT; g++) {
            struct cup_guard *guard =
                &file->tables
                     .guards[(size_t)thing->index * CUP_GUARD_COUNT + g];
            if (g < file->plan.pumps[thing->index].guard_count &&
                guard->kind < CUP_GUARD_TANKS && guard->about == about)
                guard->rate = flow > 0 ? rate_of(tank, flow) : CUP_SPAN_UNKNOWN;
        }
    }
}

/* A duty that empties a tank starts by the upper end: what flows in by itself
 * must be no leap. */
static void check_emptied(struct cup_file *file, const struct thing *thing)
{
    cup_index about = cup_tank_thing(&file->plan, thing->index);
    for (cup_index i = 0; i < file->plan.duty_count; i++) {
        const struct cup_duty *duty = &file->plan.duties[i];
        if (duty->turn || duty->keep != about ||
            duty->latch.start <= duty->latch.stop)
            continue;
        const struct cup_pump *pump = &file->plan.pumps[duty->pump];
        for (uint8_t g = 0; g < pump->guard_count; g++)
            if (pump->guards[g].kind == CUP_GUARD_SOURCE &&
                pump->guards[g].about == about)
                problem_error(&file->problems, thing->place,
                              "[%s] empties it, so it needs gains: how much "
                              "flows into it "
                              "by itself at the most, such as gains = 20L/min",
                              cup_thing_name(&file->plan,
                                             cup_duty_thing(&file->plan, i)));
    }
}

/* Steps of its sensor for a mm10 of depth. */
static double steps_of(const struct cup_tank *tank)
{
    if (tank->form == CUP_TANK_DISTANCE)
        return 1;
    return (double)tank->rise.width / tank->rise.rise / tank->step_mm10;
}

/* What pumps move of a tank at the most, one way, in L/min. */
static double moved_of(struct cup_file *file, const struct thing *thing)
{
    double in = 0;
    double out = 0;
    for (size_t i = 0; i < file->things.count; i++) {
        const struct thing *pump = &file->things.list[i];
        if (pump->kind != KIND_PUMP)
            continue;
        const struct value *into = good_value(pump, "into");
        const struct value *from = good_value(pump, "from");
        double flow = number_of(pump, "flow", 0);
        if (into && &file->things.list[into->number] == thing)
            in += flow;
        if (from && &file->things.list[from->number] == thing)
            out += flow;
    }
    return fmax(in, out);
}

/* A jump that is slower than its own pumps move it: every good sample would be
 * rejected, and the tank overflow. */
static void check_jump(struct cup_file *file, const struct thing *thing,
                       const struct cup_tank *tank)
{
    const struct cup_sensor *sensor = &file->plan.sensors[tank->sensor];
    if (!sensor->checks || sensor->checks->jump_per_s == 0)
        return;
    double mm10 = moved_of(file, thing) * plan_mm10_of_ml(tank);
    double a_second = mm10 / 60 * steps_of(tank);
    const struct thing *of = thing_of(&file->things, KIND_SENSOR, tank->sensor);
    if (of && a_second > sensor->checks->jump_per_s)
        problem_error(
            &file->problems, value_of(of, "jump")->place,
            "slower than its own pumps move %s, %.1f mm/s: every good "
            "sample would be rejected while they run",
            thing->section->name, mm10 / 600);
}

/* What is looked at seldom moves far between two samples: by rain, a hose,
 * goats. */
#define SELDOM_MS 60000

static void check_seldom(struct cup_file *file, const struct thing *thing,
                         const struct cup_span *span)
{
    if (span->lag_ms > SELDOM_MS * 2 &&
        !(value_of(thing, "gains")->given && value_of(thing, "loses")->given))
        problem_warning(
            &file->problems, thing->place,
            "it is looked at so seldom that rain, a hose or a tap may pass "
            "for a leap: give it gains and loses, the most that they move");
}

static void make_span(struct cup_file *file, const struct thing *thing)
{
    struct cup_tank *tank = &file->tables.tanks[thing->index];
    if (tank->form == CUP_TANK_FLOATS || !tank->fill || tank->fill->count < 2 ||
        tank->volume->count < 2)
        return;
    tank->span_own = file->plan.spans++;
    struct cup_span *span = &file->tables.spans[thing->index];
    *span = (struct cup_span){
        .believe_ms = (uint32_t)number_of(thing, "believe", BELIEVE_MS),
        .boot_ms = CUP_SPAN_BOOT_MS,
        .lag_ms = lag_of(&file->plan, tank),
        .gains = rate_of(tank, number_of(thing, "gains", 0)),
        .loses = rate_of(tank, number_of(thing, "loses", 0)),
        .leap = leap_of(file, thing, tank)};
    tank->span = span;
    set_rates(file, tank, cup_tank_thing(&file->plan, thing->index));
    check_jump(file, thing, tank);
    check_seldom(file, thing, span);
    if (!value_of(thing, "gains")->given)
        check_emptied(file, thing);
}

void cup_file_moved_by_others(struct cup_file *file)
{
    for (cup_index i = 0; i < file->plan.pump_count; i++) {
        const struct cup_pump *pump = &file->plan.pumps[i];
        for (uint8_t g = 0; g < pump->guard_count; g++) {
            const struct cup_guard *guard = &pump->guards[g];
            if (guard->kind >= CUP_GUARD_TANKS)
                continue;
            cup_index tank =
                (cup_index)(guard->about - file->plan.sensor_count);
            struct cup_span *span = &file->tables.spans[tank];
            uint32_t *rate = guard->kind == CUP_GUARD_DESTINATION
                                 ? &span->gains
                                 : &span->loses;
            *rate = cup_least(*rate, RATE_MOST) +
                    cup_least(guard->rate, RATE_MOST) / 2 * 3;
        }
    }
}

/* Pumps that one sensor should prove. */
static void share_meters(struct cup_file *file)
{
    size_t *users = calloc(file->plan.sensor_count + 1u, sizeof(*users));
    if (!users)
        abort();
    for (cup_index i = 0; i < file->plan.pump_count; i++) {
        const struct cup_proof *proof = file->plan.pumps[i].proof;
        if (proof && proof->about < file->plan.sensor_count)
            users[proof->about]++;
    }
    for (cup_index i = 0; i < file->plan.pump_count; i++) {
        const struct cup_proof *proof = file->plan.pumps[i].proof;
        if (proof && proof->about < file->plan.sensor_count)
            file->tables.proofs[i].shared = users[proof->about] > 1;
    }
    free(users);
}

void plan_make_spans(struct cup_file *file)
{
    share_meters(file);
    for (size_t i = 0; i < file->things.count; i++)
        if (file->things.list[i].kind == KIND_TANK)
            make_span(file, &file->things.list[i]);
}
