/* How many outputs move each tank, and stand in each group. */
#include "inside.h"

void cup_in_movers_count(const struct cup_site *site,
                         CUP_FLASH struct cup_pump *plan, bool in)
{
    CUP_FLASH struct cup_guard *guard = plan->guards;
    const int by = in ? 1 : -1;
    for (uint8_t left = plan->guard_count; left > 0; left--, guard++) {
        struct cup_tank_state *tank = cup_in_levels_guarded(site, guard);
        if (tank)
            tank->movers = (cup_few)(tank->movers + by);
    }
    CUP_WHERE(SPANS, cup_in_spans_switch(site, plan, in);)
    CUP_WHERE(AT_ONCE, {
        if (plan->group < site->plan->group_count)
            site->groups[plan->group] =
                (uint8_t)(site->groups[plan->group] + by);
    })
}
