/* How many outputs move each tank, and stand in each group. */
#include "inside.h"

#if CUP_USES_FLOWS && CUP_USES_PROOFS
/* Pumps that one sensor should prove count at the first of them. */
static void count_at_meter(const struct cup_site *site,
                           CUP_FLASH struct cup_pump *plan, int by)
{
    if (!plan->proof || plan->proof->shared == 0)
        return;
    struct cup_proof_state *first = &site->proofs[plan->proof->shared - 1];
    first->sharers = (uint16_t)(first->sharers + by);
}
#endif

void cup_in_movers_count(const struct cup_site *site,
                         CUP_FLASH struct cup_pump *plan, bool in)
{
    CUP_FLASH struct cup_guard *guard = plan->guards;
    const int by = in ? 1 : -1;
    for (uint8_t left = plan->guard_count; left > 0; left--, guard++) {
        struct cup_tank_state *tank = cup_in_levels_guarded(site, guard);
        if (!tank)
            continue;
        tank->movers = (cup_few)(tank->movers + by);
        CUP_WHERE(PROOFS, {
            if (guard->kind == CUP_GUARD_DESTINATION)
                tank->givers = (cup_few)(tank->givers + by);
        })
    }
    CUP_WHERE(PROOFS, CUP_WHERE(FLOWS, count_at_meter(site, plan, by);))
    CUP_WHERE(SPANS, cup_in_spans_switch(site, plan, in);)
    CUP_WHERE(AT_ONCE, {
        if (plan->group < site->plan->group_count)
            site->groups[plan->group] =
                (uint8_t)(site->groups[plan->group] + by);
    })
}
