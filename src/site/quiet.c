/* When a pump has to be looked at again, though nothing is heard. */
#include "inside.h"

#if CUP_USES_QUIET

/* ms until a proof is judged, a shortest run is over, a day or its limit. */
static uint32_t left_of_run(const struct cup_pass *pass)
{
    const struct cup_pump_state *pump = pass->pump;
    CUP_FLASH struct cup_pump *plan = pass->pump_plan;
    uint32_t left = UINT32_MAX;
    CUP_WHERE(PROOFS, {
        if (plan->proof) {
            left =
                cup_proof_left(plan->proof, cup_in_pass_proof(pass), pass->now);
            if (CUP_USES_SLACK) /* each sample counts */
                cup_in_weigh_to(site_of(pass), plan->proof->about, 0);
        }
    })
    CUP_WHERE(PER_DAYS, {
        if (plan->per_day)
            left = cup_least(
                left,
                cup_per_day_left(plan->per_day,
                                 &site_of(pass)->per_days[plan->per_day_own],
                                 cup_in_pass_run(pump, pass->now)));
    })
    if (!cup_pump_is(pump, CUP_PUMP_IS_WANTED))
        left = cup_least(
            left, cup_left(pass->now, pump->since_ms, plan->shortest_ms));
    return left;
}

#if CUP_USES_PER_DAYS
/* ms until a day is over: until midnight, or its 24 h without a clock. */
static uint32_t left_of_day(const struct cup_pass *pass)
{
    if (cup_in_clock_minute(pass) != CUP_NO_MINUTE)
        return CUP_DAY_MS - cup_in_clock_midnight(pass) % CUP_DAY_MS;
    return cup_left(
        pass->now,
        site_of(pass)->per_days[pass->pump_plan->per_day_own].began_ms,
        CUP_DAY_MS);
}
#endif

#if CUP_USES_TRAVELS
/* ms until it has arrived; UINT32_MAX when it has. */
static uint32_t left_of_travel(const struct cup_pass *pass)
{
    uint32_t left =
        cup_travel_left(pass->pump_plan->travel,
                        &site_of(pass)->travels[pass->pump_plan->travel_own],
                        pass->now, cup_pump_is(pass->pump, CUP_PUMP_IS_ON));
    if (left > 0)
        return left;
    cup_pump_set(pass->pump, CUP_PUMP_IS_MOVING, false);
    return UINT32_MAX;
}
#endif

void cup_in_quiet_pump(struct cup_pass *pass)
{
    const struct cup_pump_state *pump = pass->pump;
    uint32_t left = cup_pump_left(pass->pump_plan, pump, pass->now,
                                  site_of(pass)->plan->boot_wait_ms);
    if (cup_pump_is(pump, CUP_PUMP_IS_ON))
        left = cup_least(left, left_of_run(pass));
    CUP_WHERE(PER_DAYS, {
        if (pass->pump_plan->per_day)
            left = cup_least(left, left_of_day(pass));
    })
    CUP_WHERE(TRAVELS, {
        if (pass->pump_plan->travel && cup_pump_is(pump, CUP_PUMP_IS_MOVING))
            left = cup_least(left, left_of_travel(pass));
    })
    cup_in_quiet_for(pass, left);
}
#endif
