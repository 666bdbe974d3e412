/* How many entries of the journal bounded runs and the time ask for. */
#include "../inside.h"
#include "cuplatch/journal.h"

#define DAY_MS CUP_DAY_MS

static uint32_t fits(uint32_t ms)
{
    return DAY_MS / (ms > 0 ? ms : 1);
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
    uint32_t most =
        fits(cup_most(pump->rest_ms + pump->shortest_ms, 2 * plan->scan_ms));
    if (pump->per_day)
        starts = most; /* whatever starts it */
    if (pump->per_day && pump->per_day->starts > 0)
        most = cup_least(most, pump->per_day->starts);
    return cup_least(starts, most);
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
