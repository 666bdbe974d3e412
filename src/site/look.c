/* What the site knows and does, for whoever asks. Changes nothing. */
#include "inside.h"

uint8_t cup_thing_unit(CUP_FLASH struct cup_plan *plan, cup_index thing)
{
    if (thing < plan->sensor_count)
        return plan->sensors[thing].unit;
    return thing < plan->sensor_count + plan->tank_count ? CUP_UNIT_PERCENT
                                                         : CUP_UNIT_NONE;
}

struct cup_reading cup_site_reading(const struct cup_site *site,
                                    cup_index thing)
{
    if (thing >= cup_pump_thing(site->plan, 0))
        return (struct cup_reading){.quality = CUP_QUALITY_LOST};
#if !CUP_USES_VALUES
    const struct cup_held *held = &cup_behind(site, thing)->reading;
    return (struct cup_reading){.value = cup_value_of(site, thing),
                                .unit = cup_thing_unit(site->plan, thing),
                                .quality = held->quality,
                                .reason = held->reason,
                                .flags = held->flags};
#else
    if (thing < site->plan->sensor_count)
        return site->sensors[thing].reading;
    cup_index i = (cup_index)(thing - site->plan->sensor_count);
    CUP_FLASH struct cup_tank *tank = &site->plan->tanks[i];
    struct cup_reading level = site->sensors[tank->sensor].reading;
    if (CUP_IF(FLOATS, tank->form == CUP_TANK_FLOATS))
        level = cup_floats_reading(site, tank);
    level.value = site->tanks[i].value;
    level.unit = CUP_UNIT_PERCENT;
    return level;
#endif
}

cup_value cup_site_shown(const struct cup_site *site, cup_index thing)
{
    CUP_FLASH struct cup_plan *plan = site->plan;
    if (thing >= cup_pump_thing(plan, 0))
        return 0;
    return CUP_IF_ELSE(VALUES, cup_shown_of(site, thing),
                       cup_value_of(site, thing));
}

cup_value cup_site_latest(const struct cup_site *site, cup_index sensor)
{
    if (sensor >= site->plan->sensor_count)
        return 0;
    struct cup_sensor_use use = cup_use_of(site, sensor);
    return cup_sensor_convert(&use, use.state->latest);
}

uint32_t cup_site_age_ms(const struct cup_site *site, cup_index thing)
{
    CUP_FLASH struct cup_plan *plan = site->plan;
    if (thing >= cup_pump_thing(plan, 0))
        return 0;
    const struct cup_sensor_state *state = cup_behind(site, thing);
    uint32_t age = cup_elapsed(site->pass->clock_ms, state->good_ms);
#if CUP_USES_FLOATS
    if (thing < plan->sensor_count ||
        plan->tanks[thing - plan->sensor_count].form != CUP_TANK_FLOATS ||
        plan->tanks[thing - plan->sensor_count].high == CUP_NONE)
        return age;
    state = &site->sensors[plan->tanks[thing - plan->sensor_count].high];
    age = cup_most(age, cup_elapsed(site->pass->clock_ms, state->good_ms));
#endif
    return age;
}

bool cup_site_runs(const struct cup_site *site, cup_index pump)
{
    return pump < site->plan->pump_count &&
           cup_pump_is(&site->pumps[pump], CUP_PUMP_IS_ON);
}

uint8_t cup_site_lit(const struct cup_site *site, cup_index bar)
{
    if (bar >= site->plan->bar_count)
        return 0;
    CUP_FLASH struct cup_bar *plan = &site->plan->bars[bar];
    if (!cup_can_use(site, plan->about))
        return 0;
    return cup_bar_lit(plan, cup_site_shown(site, plan->about));
}

/* A pump, or a duty, that has failed or needs a person. */
static bool has_failed(const struct cup_site *site)
{
    CUP_FLASH struct cup_plan *plan = site->plan;
    for (cup_index i = 0; i < plan->pump_count; i++)
        if (cup_pump_is(&site->pumps[i], CUP_PUMP_IS_TRIPPED |
                                             CUP_PUMP_IS_FAILING |
                                             CUP_PUMP_PAST_STOP))
            return true;
    for (cup_index i = 0; CUP_USES_DOSES && i < plan->duty_count; i++)
        if (cup_site_gave_up(site, i))
            return true;
    return false;
}

/* What is told of and not over. */
static bool has_fault(const struct cup_site *site)
{
    CUP_FLASH struct cup_plan *plan = site->plan;
    for (cup_index i = 0; i < plan->sensor_count; i++)
        if (site->sensors[i].reading.quality == CUP_QUALITY_LOST)
            return true;
    for (cup_index i = 0; i < plan->watch_count; i++)
        if (site->watches[i].flags & CUP_WATCH_TOLD)
            return true;
    for (cup_index i = 0; i < plan->alert_count; i++)
        if (site->alerts[i].latch.on)
            return true;
    return site->pass->journal != CUP_JOURNAL_WORKS;
}

enum cup_mood cup_site_mood(const struct cup_site *site)
{
    if (has_failed(site) || has_fault(site))
        return CUP_MOOD_FAULT;
    for (cup_index i = 0; i < site->plan->pump_count; i++)
        if (cup_pump_is(&site->pumps[i], CUP_PUMP_IS_WANTED) &&
            !cup_pump_is(&site->pumps[i], CUP_PUMP_IS_ON))
            return CUP_MOOD_WAITS;
    return CUP_MOOD_WELL;
}

bool cup_site_gave_up(const struct cup_site *site, cup_index duty)
{
    return duty < site->plan->duty_count &&
           CUP_IF(DOSES, site->plan->duties[duty].dose) &&
           site->duties[duty].latch.own[CUP_DOSE_PHASE] == CUP_DOSE_OUT;
}

bool cup_site_asks(const struct cup_site *site, cup_index duty)
{
    return duty < site->plan->duty_count && cup_duty_wants(site, duty);
}

uint16_t cup_site_place(const struct cup_site *site, cup_index i, int *way)
{
    if (way)
        *way = 0;
    if (i >= site->plan->pump_count)
        return 0;
    bool on = cup_pump_is(&site->pumps[i], CUP_PUMP_IS_ON);
#if CUP_USES_TRAVELS
    CUP_FLASH struct cup_travel *travel = site->plan->pumps[i].travel;
    if (!travel)
        return on ? CUP_TRAVEL_OPEN : 0;
    uint16_t goal = on ? CUP_TRAVEL_OPEN : travel->safe_pct100;
    uint16_t place = cup_travel_place(
        travel, &site->travels[site->plan->pumps[i].travel_own],
        site->pass->clock_ms, on);
    if (way)
        *way = (place < goal) - (place > goal);
    return place;
#else
    return on ? CUP_TRAVEL_OPEN : 0;
#endif
}

uint32_t cup_site_wait(const struct cup_site *site)
{
    const struct cup_quiet_state *quiet = site->quiet;
    if (!CUP_USES_QUIET)
        return site->plan->scan_ms;
    uint32_t unasked =
        cup_left(site->pass->clock_ms, quiet->asking_ms, quiet->unasked_ms);
    return cup_least(cup_least(quiet->pass_ms, quiet->alive_ms), unasked);
}
