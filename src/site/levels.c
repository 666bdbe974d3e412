/* What is known of each sensor and tank, and nothing else: readings, depths,
 * ages, and whether one sample alone stands behind a level. Changes nothing. */
#include "inside.h"

uint8_t cup_thing_unit(CUP_FLASH struct cup_plan *plan, cup_index thing)
{
    if (thing < plan->sensor_count)
        return plan->sensors[thing].unit;
    return thing < plan->sensor_count + plan->tank_count ? CUP_UNIT_PERCENT
                                                         : CUP_UNIT_NONE;
}

#if CUP_USES_FLOATS
/* Two floats that contradict each other say nothing: the upper is lifted and
 * the lower is not. */
static bool contradict(struct cup_reading low, struct cup_reading high)
{
    return cup_usable(low) && cup_usable(high) && high.value > 0 &&
           low.value == 0;
}

bool cup_in_levels_differ(const struct cup_site *site, cup_index thing)
{
    if (thing < site->plan->sensor_count)
        return false;
    CUP_FLASH struct cup_tank *tank = cup_tank_of(site->plan, thing);
    return tank->form == CUP_TANK_FLOATS && tank->high != CUP_NONE &&
           contradict(site->sensors[tank->sensor].reading,
                      site->sensors[tank->high].reading);
}

struct cup_reading cup_in_levels_by_floats(const struct cup_site *site,
                                           CUP_FLASH struct cup_tank *tank)
{
    struct cup_reading low = site->sensors[tank->sensor].reading;
    if (tank->high == CUP_NONE)
        return low;
    struct cup_reading high = site->sensors[tank->high].reading;
    struct cup_reading worse = high.quality > low.quality ? high : low;
    worse.flags = (low.flags & high.flags) |
                  ((low.flags | high.flags) & CUP_READING_LOST);
    if (contradict(low, high)) {
        worse.quality = CUP_QUALITY_LOST;
        worse.reason = CUP_REASON_FAULT;
        worse.flags = CUP_READING_LOST;
    }
    return worse;
}
#endif

#if !CUP_USES_VALUES
static cup_value value_of_counts(const struct cup_site *site, cup_index thing)
{
    CUP_FLASH struct cup_plan *plan = site->plan;
    cup_index sensor = cup_in_levels_sensor(site, thing);
    cup_value value =
        cup_sensor_value(&plan->sensors[sensor], &site->sensors[sensor]);
    if (thing < plan->sensor_count)
        return value;
    return cup_tank_fill_pct100(cup_tank_of(plan, thing), value);
}
#endif

cup_value cup_in_levels_value(const struct cup_site *site, cup_index thing)
{
    return CUP_IF_ELSE(VALUES, cup_in_levels_mark(site, thing),
                       value_of_counts(site, thing));
}

cup_value cup_in_levels_end_value(const struct cup_site *site, cup_index thing,
                                  enum cup_end end)
{
    (void)end;
    return CUP_IF_ELSE(SPANS, cup_in_levels_end(site, thing, end),
                       cup_in_levels_value(site, thing));
}

cup_value cup_in_levels_depth(const struct cup_site *site, cup_index thing)
{
    CUP_FLASH struct cup_plan *plan = site->plan;
    if (CUP_USES_FLOWS && thing < plan->sensor_count)
        return cup_in_levels_value(site, thing);
    CUP_FLASH struct cup_tank *tank = cup_tank_of(plan, thing);
    if (CUP_IF(FLOATS, tank->form == CUP_TANK_FLOATS))
        return 0;
    int32_t steps =
        cup_tank_depth(tank, cup_in_levels_value(site, tank->sensor));
    return CUP_USES_WIDE ? steps * tank->step_mm10 : steps;
}

CUP_APART struct cup_tank_state *
cup_in_levels_guarded(const struct cup_site *site,
                      CUP_FLASH struct cup_guard *guard)
{
    return guard->kind >= CUP_GUARD_TANKS
               ? NULL
               : &site->tanks[guard->about - site->plan->sensor_count];
}

#if CUP_USES_MEANS
/* A stored sample as a level of what its sensor tells of. */
static cup_mark level_from(const struct cup_site *site, cup_index thing,
                           const struct cup_sensor_use *use, uint16_t stored)
{
    cup_value value = cup_sensor_convert(use, stored);
    return thing < site->plan->sensor_count
               ? value
               : cup_tank_fill_pct100(cup_tank_of(site->plan, thing), value);
}

/* A mean may be past the mark by one sample alone: so must be the second best
 * of its samples, whichever way the curve goes. */
static bool second_is_clear(const struct cup_site *site,
                            CUP_FLASH struct cup_guard *guard, cup_index sensor)
{
    struct cup_sensor_use use = cup_in_pass_use(site, sensor);
    const uint16_t *last = use.cells + use.state->window.count - 1;
    cup_mark one = level_from(site, guard->about, &use, use.cells[1]);
    cup_mark two = level_from(site, guard->about, &use, last[-1]);
    return cup_is_beyond(&guard->clear, &guard->mark, one) ||
           cup_is_beyond(&guard->clear, &guard->mark, two);
}
#endif

bool cup_in_levels_sure(const struct cup_site *site,
                        CUP_FLASH struct cup_guard *guard)
{
    cup_index sensor = cup_in_levels_sensor(site, guard->about);
    struct cup_window shape = site->plan->sensors[sensor].window;
    const struct cup_sensor_state *state = &site->sensors[sensor];
    if (shape.size < 3 || /* or full, which was said twice */
        CUP_IF(CHECKS, cup_is_full(state->reading)))
        return true;
    if (state->window.count < 3)
        return false;
    return !CUP_IF(MEANS, shape.trim == 0) ||
           CUP_IF(MEANS, second_is_clear(site, guard, sensor));
}

#if CUP_USES_FLOATS
static bool is_by_floats(const struct cup_site *site, cup_index thing)
{
    return thing >= site->plan->sensor_count &&
           cup_tank_of(site->plan, thing)->form == CUP_TANK_FLOATS;
}
#endif

struct cup_reading cup_site_reading(const struct cup_site *site,
                                    cup_index thing)
{
    if (thing >= cup_pump_thing(site->plan, 0))
        return (struct cup_reading){.quality = CUP_QUALITY_LOST};
    const struct cup_held *held = &cup_in_levels_behind(site, thing)->reading;
    struct cup_reading level = {
        .quality = held->quality, .reason = held->reason, .flags = held->flags};
    CUP_WHERE(FLOATS, {
        if (is_by_floats(site, thing))
            level =
                cup_in_levels_by_floats(site, cup_tank_of(site->plan, thing));
    })
    level.value = cup_in_levels_value(site, thing);
    level.unit = cup_thing_unit(site->plan, thing);
    return level;
}

cup_value cup_site_shown(const struct cup_site *site, cup_index thing)
{
    CUP_FLASH struct cup_plan *plan = site->plan;
    if (thing >= cup_pump_thing(plan, 0))
        return 0;
    return CUP_IF_ELSE(VALUES, cup_in_levels_shown(site, thing),
                       cup_in_levels_value(site, thing));
}

cup_value cup_site_latest(const struct cup_site *site, cup_index sensor)
{
    if (sensor >= site->plan->sensor_count)
        return 0;
    struct cup_sensor_use use = cup_in_pass_use(site, sensor);
    return cup_sensor_convert(&use, use.state->latest);
}

uint32_t cup_site_age_ms(const struct cup_site *site, cup_index thing)
{
    CUP_FLASH struct cup_plan *plan = site->plan;
    if (thing >= cup_pump_thing(plan, 0))
        return 0;
    const struct cup_sensor_state *state = cup_in_levels_behind(site, thing);
    uint32_t age = cup_elapsed(site->pass->clock_ms, state->good_ms);
    CUP_WHERE(FLOATS, {
        if (thing < plan->sensor_count ||
            plan->tanks[thing - plan->sensor_count].form != CUP_TANK_FLOATS ||
            plan->tanks[thing - plan->sensor_count].high == CUP_NONE)
            return age;
        state = &site->sensors[plan->tanks[thing - plan->sensor_count].high];
        age = cup_most(age, cup_elapsed(site->pass->clock_ms, state->good_ms));
    })
    return age;
}
