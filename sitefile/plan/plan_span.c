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

/* What has to do with a tank.
 *   narrowest  band between dry_below and dry_clear of all that draw from it
 *   in, out    what pumps move of it at the most, in ml a minute
 *   emptied    1 and the duty that empties it; 0: none does */
struct around {
    int32_t narrowest;
    double in;
    double out;
    cup_index emptied;
};

static int32_t leap_of(struct cup_file *file, const struct thing *thing,
                       const struct cup_tank *tank, const struct around *around)
{
    const struct value *value = good_value(thing, "leap");
    int32_t most = around->narrowest;
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

/* A duty that empties a tank starts by the upper end: what flows in by itself
 * must be no leap. */
static void check_emptied(struct cup_file *file, const struct thing *thing,
                          const struct around *around)
{
    if (around->emptied == 0 || value_of(thing, "gains")->given)
        return;
    cup_index duty = (cup_index)(around->emptied - 1);
    problem_error(
        &file->problems, thing->place,
        "[%s] empties it, so it needs gains: how much flows into it by itself "
        "at the most, such as gains = 20L/min",
        cup_thing_name(&file->plan, cup_duty_thing(&file->plan, duty)));
}

/* Steps of its sensor for a mm10 of depth. */
static double steps_of(const struct cup_tank *tank)
{
    if (tank->form == CUP_TANK_DISTANCE)
        return 1;
    return (double)tank->rise.width / tank->rise.rise / tank->step_mm10;
}

/* A jump that is slower than its own pumps move it: every good sample would be
 * rejected, and the tank overflow. */
static void check_jump(struct cup_file *file, const struct thing *thing,
                       const struct cup_tank *tank, const struct around *around)
{
    const struct cup_sensor *sensor = &file->plan.sensors[tank->sensor];
    if (!sensor->checks || sensor->checks->jump_per_s == 0)
        return;
    double mm10 = fmax(around->in, around->out) * plan_mm10_of_ml(tank);
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

static void make_span(struct cup_file *file, const struct thing *thing,
                      const struct around *around)
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
        .leap = leap_of(file, thing, tank, around)};
    tank->span = span;
    check_jump(file, thing, tank, around);
    check_seldom(file, thing, span);
    check_emptied(file, thing, around);
}

/* The tank that a guard is of; null where it is of none. */
static struct around *guarded(const struct cup_file *file,
                              struct around *around,
                              const struct cup_guard *guard)
{
    return guard->kind < CUP_GUARD_TANKS
               ? &around[guard->about - file->plan.sensor_count]
               : NULL;
}

static void look_at_guards(const struct cup_file *file, struct around *around)
{
    for (cup_index i = 0; i < file->plan.tank_count; i++)
        around[i].narrowest = CUP_TANK_FULL;
    for (cup_index i = 0; i < file->plan.pump_count; i++) {
        const struct cup_pump *pump = &file->plan.pumps[i];
        for (uint8_t g = 0; g < pump->guard_count; g++) {
            const struct cup_guard *guard = &pump->guards[g];
            struct around *one = guarded(file, around, guard);
            if (one && guard->kind == CUP_GUARD_SOURCE)
                one->narrowest =
                    (int32_t)cup_least((uint32_t)one->narrowest,
                                       (uint32_t)(guard->clear - guard->mark));
        }
    }
}

static void add_flow(const struct cup_file *file, struct around *around,
                     const struct thing *pump)
{
    const struct value *into = good_value(pump, "into");
    const struct value *from = good_value(pump, "from");
    double flow = number_of(pump, "flow", 0);
    if (into)
        around[file->things.list[into->number].index].in += flow;
    if (from)
        around[file->things.list[from->number].index].out += flow;
}

static void look_at_duties(const struct cup_file *file, struct around *around)
{
    for (cup_index i = 0; i < file->plan.duty_count; i++) {
        const struct cup_duty *duty = &file->plan.duties[i];
        if (duty->turn || duty->latch.start <= duty->latch.stop)
            continue;
        const struct cup_pump *pump = &file->plan.pumps[duty->pump];
        for (uint8_t g = 0; g < pump->guard_count; g++) {
            const struct cup_guard *guard = &pump->guards[g];
            struct around *one = guarded(file, around, guard);
            if (one && guard->kind == CUP_GUARD_SOURCE &&
                guard->about == duty->keep && one->emptied == 0)
                one->emptied = (cup_index)(i + 1);
        }
    }
}

/* What a pump moves of its tanks; of one whose flow nobody told, anything. */
static void set_rates(struct cup_file *file, const struct thing *pump)
{
    double flow = number_of(pump, "flow", 0);
    struct cup_guard *guard =
        &file->tables.guards[(size_t)pump->index * CUP_GUARD_COUNT];
    for (uint8_t g = 0; g < file->plan.pumps[pump->index].guard_count;
         g++, guard++) {
        if (guard->kind >= CUP_GUARD_TANKS)
            continue;
        const struct cup_tank *tank = cup_tank_of(&file->plan, guard->about);
        if (tank->span)
            guard->rate = flow > 0 ? rate_of(tank, flow) : CUP_SPAN_UNKNOWN;
    }
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
    cup_index *first = calloc(file->plan.sensor_count + 1u, sizeof(*first));
    if (!first)
        abort();
    for (cup_index i = 0; i < file->plan.pump_count; i++) {
        const struct cup_pump *pump = &file->plan.pumps[i];
        if (!pump->proof || pump->proof->about >= file->plan.sensor_count)
            continue;
        cup_index *one = &first[pump->proof->about];
        if (*one == 0) {
            *one = (cup_index)(i + 1);
            continue;
        }
        struct cup_proof *of = &file->tables.proofs[*one - 1];
        of->shared = (cup_index)(file->plan.pumps[*one - 1].proof_own + 1);
        file->tables.proofs[i].shared = of->shared;
    }
    free(first);
}

/* For each thing of a kind, in the order of the file. */
#define EACH_OF(file, of, kind_of)                                             \
    for (const struct thing *of = (file)->things.list;                         \
         of < (file)->things.list + (file)->things.count; of++)                \
        if (of->kind == (kind_of))

void plan_make_spans(struct cup_file *file)
{
    struct around *around = calloc(file->plan.tank_count + 1u, sizeof(*around));
    if (!around)
        abort();
    share_meters(file);
    look_at_guards(file, around);
    look_at_duties(file, around);
    EACH_OF(file, pump, KIND_PUMP)
    add_flow(file, around, pump);
    EACH_OF(file, tank, KIND_TANK)
    make_span(file, tank, &around[tank->index]);
    EACH_OF(file, pump, KIND_PUMP)
    set_rates(file, pump);
    free(around);
}
