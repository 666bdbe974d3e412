/* Whether a plan has values that 16 bits cannot hold, and whose. */
#include "baking.h"

static bool is_wide(int32_t value)
{
    return value < INT16_MIN || value > INT16_MAX;
}

static bool curve_is_wide(const struct cup_curve *curve, uint16_t lowest,
                          uint16_t highest)
{
    bool wide = is_wide(cup_curve_value(curve, lowest)) ||
                is_wide(cup_curve_value(curve, highest));
    for (uint8_t i = 0; i < curve->count; i++)
        wide |= is_wide(curve->knots[i].y);
    return wide;
}

static bool latch_is_wide(const struct cup_latch *latch)
{
    return is_wide(latch->start) || is_wide(latch->stop);
}

/* A rate of pulses may be past what is plausible between two samples. */
static bool sensor_is_wide(const struct cup_sensor *sensor)
{
    const struct cup_checks *checks = sensor->checks;
    uint16_t highest =
        sensor->form == CUP_FORM_PULSES ? UINT16_MAX : sensor->highest;
    return sensor->air != CUP_NONE ||
           curve_is_wide(sensor->curve, sensor->lowest, highest) ||
           (checks && (is_wide(checks->near) || is_wide(checks->brim) ||
                       is_wide(checks->band)));
}

static bool pump_is_wide(const struct cup_pump *pump)
{
    bool wide = false;
    for (uint8_t g = 0; g < pump->guard_count; g++)
        wide |= is_wide(pump->guards[g].mark) || is_wide(pump->guards[g].clear);
    return wide;
}

static bool duty_is_wide(const struct cup_duty *duty)
{
    return latch_is_wide(&duty->latch) ||
           (duty->also && latch_is_wide(&duty->also->latch)) ||
           (duty->turn && is_wide(duty->turn->until_above));
}

/* What has no number of its own, by the thing that it looks at. */
static cup_index wide_by_another(const struct cup_plan *plan)
{
    for (cup_index i = 0; i < plan->setting_count; i++)
        if (plan->settings[i].field <= CUP_FIELD_STOP &&
            (is_wide(plan->settings[i].low) || is_wide(plan->settings[i].high)))
            return cup_duty_thing(plan, plan->settings[i].duty);
    for (cup_index i = 0; i < plan->bar_count; i++)
        for (uint8_t mark = 0; mark < plan->bars[i].count; mark++)
            if (is_wide(plan->bars[i].marks[mark]))
                return plan->bars[i].about;
    return CUP_NONE;
}

static cup_index wide_reading(const struct cup_plan *plan)
{
    for (cup_index i = 0; i < plan->sensor_count; i++)
        if (sensor_is_wide(&plan->sensors[i]))
            return i;
    for (cup_index i = 0; i < plan->tank_count; i++)
        if (is_wide(plan->tanks[i].top) || plan->tanks[i].step_mm10 != 1)
            return cup_tank_thing(plan, i);
    return CUP_NONE;
}

static cup_index wide_mark(const struct cup_plan *plan)
{
    for (cup_index i = 0; i < plan->pump_count; i++)
        if (pump_is_wide(&plan->pumps[i]))
            return cup_pump_thing(plan, i);
    for (cup_index i = 0; i < plan->duty_count; i++)
        if (duty_is_wide(&plan->duties[i]))
            return cup_duty_thing(plan, i);
    for (cup_index i = 0; i < plan->day_count; i++)
        if (latch_is_wide(&plan->days[i].latch))
            return cup_day_thing(plan, i);
    for (cup_index i = 0; i < plan->alert_count; i++)
        if (latch_is_wide(&plan->alerts[i].latch))
            return cup_alert_thing(plan, i);
    return CUP_NONE;
}

cup_index bake_wide_thing(const struct cup_plan *plan)
{
    cup_index thing = wide_reading(plan);
    if (thing == CUP_NONE)
        thing = wide_mark(plan);
    return thing == CUP_NONE ? wide_by_another(plan) : thing;
}
