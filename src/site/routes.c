/* Routes: the valves that must stand open before a pump may run, and stay
 * open until it is off. */
#include "inside.h"

#if CUP_USES_ROUTES

CUP_FLASH struct cup_duty *cup_in_routes_of(const struct cup_site *site,
                                            cup_index pump)
{
    uint16_t duty = site->pumps[pump].duty;
    if (duty >= site->plan->duty_count ||
        site->plan->duties[duty].through_count == 0)
        return NULL;
    return &site->plan->duties[duty];
}

/* A valve of the duty looked at that something keeps from opening: its pump is
 * for whoever asks next. CUP_NONE when all can open. */
cup_index cup_in_routes_kept_shut(const struct cup_pass *pass)
{
    for (uint8_t v = 0; v < pass->duty->through_count; v++) {
        const struct cup_pump_state *valve =
            &site_of(pass)->pumps[pass->duty->through[v]];
        if (valve->mode == CUP_MODE_OFF || valve->no != CUP_REASON_NONE ||
            cup_pump_is(valve, CUP_PUMP_IS_TRIPPED | CUP_PUMP_IS_FAILING))
            return pass->duty->through[v];
    }
    return CUP_NONE;
}

#if CUP_USES_AT_ONCE
/* Valves of a pump's route that are counted in its own group already. */
uint8_t cup_in_routes_in_group(const struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_duty *duty = cup_in_routes_of(site, pass->i);
    uint8_t count = 0;
    for (uint8_t v = 0; duty && v < duty->through_count; v++) {
        cup_index valve = duty->through[v];
        if (site->plan->pumps[valve].group == pass->pump_plan->group &&
            cup_pump_is(&site->pumps[valve], CUP_PUMP_MAY_RUN))
            count++;
    }
    return count;
}
#endif

/* A pump that runs, or would if only its valves were open. */
static bool needs_route(const struct cup_pump_state *pump)
{
    if (cup_pump_is(pump, CUP_PUMP_IS_ON))
        return true;
    return cup_pump_is(pump, CUP_PUMP_IS_WANTED) &&
           pump->no == CUP_REASON_NONE &&
           !cup_pump_is(pump, CUP_PUMP_IS_TRIPPED | CUP_PUMP_IS_RESTING |
                                  CUP_PUMP_IS_BOOTING);
}

void cup_in_routes_open(const struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    for (cup_index i = 0; i < site->plan->duty_count; i++) {
        CUP_FLASH struct cup_duty *duty = &site->plan->duties[i];
        if (duty->through_count == 0 || site->pumps[duty->pump].duty != i ||
            !needs_route(&site->pumps[duty->pump]))
            continue;
        for (uint8_t v = 0; v < duty->through_count; v++) {
            struct cup_pump_state *valve = &site->pumps[duty->through[v]];
            if (valve->mode != CUP_MODE_OFF)
                cup_pump_set(valve, CUP_PUMP_IS_WANTED | CUP_PUMP_IS_ROUTE,
                             true);
        }
    }
}

uint8_t cup_in_routes_wait(struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_duty *duty = cup_in_routes_of(site, pass->i);
    for (uint8_t v = 0; duty && v < duty->through_count; v++) {
        cup_index i = duty->through[v];
        CUP_FLASH struct cup_pump *valve = &site->plan->pumps[i];
        if (!cup_pump_is(&site->pumps[i], CUP_PUMP_IS_ON) ||
            site->pumps[i].no != CUP_REASON_NONE ||
            site->pumps[i].mode == CUP_MODE_OFF)
            return cup_in_because(pass, CUP_REASON_ROUTE_SHUT,
                                  cup_pump_thing(site->plan, i));
        (void)valve;
        if (!CUP_IF(TRAVELS, valve->travel))
            continue;
        uint32_t left =
            CUP_IF(TRAVELS, cup_travel_left(valve->travel,
                                            &site->travels[valve->travel_own],
                                            pass->now, true));
        if (left > 0)
            return cup_in_because_of(
                pass, CUP_REASON_ROUTE_OPENS, cup_pump_thing(site->plan, i),
                cup_in_number_of_ms(left),
                CUP_IF(TRAVELS, cup_in_number_of_ms(valve->travel->all_ms)));
    }
    return CUP_REASON_NONE;
}

/* A pump that runs, or was stopped by this very pass. */
static bool is_moving(const struct cup_pass *pass,
                      const struct cup_pump_state *pump)
{
    return cup_pump_is(pump, CUP_PUMP_IS_ON) ||
           (pump->since_ms == pass->now &&
            !cup_pump_is(pump, CUP_PUMP_IS_BOOTING));
}

bool cup_in_routes_in_use(const struct cup_pass *pass, cup_index valve)
{
    const struct cup_site *site = site_of(pass);
    for (cup_index i = 0; i < site->plan->duty_count; i++) {
        CUP_FLASH struct cup_duty *duty = &site->plan->duties[i];
        const struct cup_pump_state *pump = &site->pumps[duty->pump];
        if (pump->duty != i || !is_moving(pass, pump))
            continue;
        for (uint8_t v = 0; v < duty->through_count; v++)
            if (duty->through[v] == valve)
                return true;
    }
    return false;
}

#endif
