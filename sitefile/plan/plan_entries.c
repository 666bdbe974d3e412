/* What a day may come to, whatever chatters: entries of the journal, and
 * events.
 */
#include "../inside.h"
#include "cuplatch/journal.h"

#define DAY_MS CUP_DAY_MS

static uint32_t fits(uint32_t ms)
{
    return DAY_MS / (ms > 0 ? ms : 1);
}

/* Starts of a pump in a day at the most, whatever asks for them. */
static uint32_t cycles_of(const struct cup_plan *plan,
                          const struct cup_pump *pump)
{
    uint32_t most =
        fits(cup_most(pump->rest_ms + pump->shortest_ms, 2 * plan->scan_ms));
    return pump->per_day && pump->per_day->starts > 0
               ? cup_least(most, pump->per_day->starts)
               : most;
}

/* Starts of a duty in a day at the most; 0 when nothing bounds its runs. */
static uint32_t starts_of_duty(const struct cup_plan *plan,
                               const struct cup_duty *duty)
{
    const struct cup_pump *pump = &plan->pumps[duty->pump];
    const struct cup_turn *turn = duty->turn;
    if (duty->dose)
        return fits(duty->dose->dose_ms +
                    cup_most(duty->dose->soak_ms, pump->rest_ms));
    if (!turn)
        return 0;
    uint32_t starts = turn->at_count;
    uint32_t least = cup_turn_least(turn);
    if (turn->every_ms > 0)
        starts += fits(least > 0 ? least : turn->every_ms);
    return starts;
}

/* Bounded starts of a pump in a day at the most. */
static uint32_t starts_of_pump(const struct cup_plan *plan, cup_index i)
{
    const struct cup_pump *pump = &plan->pumps[i];
    uint32_t starts = 0;
    for (cup_index d = 0; d < plan->duty_count; d++)
        if (plan->duties[d].pump == i)
            starts += starts_of_duty(plan, &plan->duties[d]);
    uint32_t most = cycles_of(plan, pump);
    return pump->per_day ? most : cup_least(starts, most);
}

uint32_t plan_entries(const struct cup_plan *plan)
{
    uint32_t entries = 0;
    for (cup_index i = 0; i < plan->pump_count; i++)
        entries += 2 * starts_of_pump(plan, i);
    if (plan->turns > 0 || plan->per_days > 0)
        entries += fits(CUP_JOURNAL_AGES_MS);
    return entries;
}

/* What comes and goes is told to come, to go, and how often it was meanwhile.
 */
static uint32_t comings(uint32_t repeat_ms, uint32_t without_ms)
{
    return repeat_ms > 0 ? 3 * fits(repeat_ms) : 2 * fits(2 * without_ms);
}

/* Whether some duty asks for it itself, and not for a pump behind it. */
static bool is_asked_for(const struct cup_plan *plan, cup_index pump)
{
    for (cup_index d = 0; d < plan->duty_count; d++)
        if (plan->duties[d].pump == pump)
            return true;
    return false;
}

uint64_t plan_told_of(const struct cup_plan *plan, cup_index pump)
{
    const struct cup_pump *of = &plan->pumps[pump];
    return !of->uncounted || is_asked_for(plan, pump)
               ? 4 * (uint64_t)cycles_of(plan, of)
               : 0;
}

static uint64_t told_of_outputs(const struct cup_plan *plan)
{
    uint64_t told = 0;
    for (cup_index i = 0; i < plan->pump_count; i++)
        told += plan_told_of(plan, i);
    /* a valve opens and shuts with the pump of each duty that goes through it
     */
    for (cup_index d = 0; d < plan->duty_count; d++)
        told += 2 * (uint64_t)plan->duties[d].through_count *
                cycles_of(plan, &plan->pumps[plan->duties[d].pump]);
    return told;
}

uint64_t plan_told(const struct cup_plan *plan)
{
    uint64_t told = told_of_outputs(plan);
    for (cup_index i = 0; i < plan->sensor_count; i++) {
        const struct cup_sensor *sensor = &plan->sensors[i];
        uint64_t once = comings(plan->repeat_ms, sensor->lost_after_ms);
        told += plan->severals > 0 ? once + once : once;
    }
    for (cup_index i = 0; i < plan->tank_count; i++)
        if (plan->tanks[i].span)
            told += UINT64_C(3) * fits(plan->tanks[i].span->believe_ms);
    for (cup_index i = 0; i < plan->alert_count; i++) {
        uint32_t own_ms = plan->alerts[i].repeat_ms;
        if (own_ms == 0 || own_ms > plan->repeat_ms)
            own_ms = plan->repeat_ms;
        told += comings(own_ms, plan->scan_ms);
    }
    for (cup_index i = 0; i < plan->watch_count; i++)
        if (plan->watches[i].within_ms > 0)
            told += UINT64_C(2) * fits(plan->watches[i].within_ms);
    return told;
}
