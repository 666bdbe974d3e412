/* Why: the numbers behind each decision of a pass, and telling of them. */
#include "inside.h"

void cup_pass_tell(const struct cup_pass *pass, cup_index of, uint8_t kind,
                   struct cup_cause cause)
{
    struct cup_event event = {pass->t_ms, cause, of, kind};
    if (pass->sink && pass->sink->take)
        pass->sink->take(pass->sink->self, &event);
}

void cup_pass_tell_pump(const struct cup_pass *pass, cup_index pump,
                        uint8_t kind, struct cup_cause cause)
{
    cup_pass_tell(pass, cup_pump_thing(pass->site->plan, pump), kind, cause);
}

/* The cause for a reading that is lost, with its age, or was never known. */
struct cup_cause cup_pass_lost(const struct cup_pass *pass, cup_index thing,
                               uint8_t lost, uint8_t unknown)
{
    struct cup_reading reading = cup_reading_of(pass->site, thing);
    struct cup_cause cause = cup_unusable(thing, reading, lost, unknown);
    uint32_t age = cup_site_age_ms(pass->site, thing);
    if (reading.quality == CUP_QUALITY_LOST)
        cause.value = age > INT32_MAX ? INT32_MAX : (int32_t)age;
    return cause;
}

struct cup_cause cup_pass_mode(const struct cup_pump_state *pump)
{
    if (pump->mode == CUP_MODE_HAND)
        return cup_plain(CUP_REASON_HAND, pump->hand_for_ms, pump->hand_for_ms);
    if (pump->hand_for_ms > 0)
        return cup_plain(CUP_REASON_HAND_OVER, pump->hand_for_ms, 0);
    return cup_plain(
        pump->mode == CUP_MODE_OFF ? CUP_REASON_OFF : CUP_REASON_AUTO, 0, 0);
}

/* The day's limit that is reached; of one that was told and is over, just
 * that. */
static struct cup_cause day_cause(const struct cup_pass *pass, cup_index i,
                                  uint8_t reason)
{
    const struct cup_site *site = pass->site;
    const struct cup_pump_state *pump = &site->pumps[i];
    CUP_FLASH struct cup_pump *plan = &site->plan->pumps[i];
    if (!plan->day || pump->no == CUP_REASON_NONE)
        return cup_plain(reason, 0, 0);
    return cup_day_cause(plan->day, &site->days[plan->day_own],
                         cup_run_of(pump, pass->now),
                         cup_pump_is(pump, CUP_PUMP_IS_ON));
}

struct cup_cause cup_pass_guard(const struct cup_pass *pass, cup_index i,
                                uint8_t reason)
{
    CUP_FLASH struct cup_pump *plan = &pass->site->plan->pumps[i];
    CUP_FLASH struct cup_guard *guard = cup_guard_of(plan, reason);
    if (!guard)
        return day_cause(pass, i, reason);
    struct cup_reading reading = cup_reading_of(pass->site, guard->about);
    if (!cup_usable(reading))
        return cup_pass_lost(pass, guard->about, reason, reason);
    return cup_guard_cause(guard, reason, reading);
}

static struct cup_cause duty_cause(const struct cup_pass *pass, cup_index duty)
{
    CUP_FLASH struct cup_duty *plan = &pass->site->plan->duties[duty];
    struct cup_reading reading = cup_reading_of(pass->site, plan->keep);
    if (!cup_usable(reading))
        return cup_pass_lost(pass, plan->keep, CUP_REASON_READING_LOST,
                             CUP_REASON_NO_READING);
    return cup_duty_cause(plan, &pass->site->duties[duty], reading);
}

struct cup_cause cup_pass_wish(const struct cup_pass *pass, cup_index i)
{
    const struct cup_pump_state *pump = &pass->site->pumps[i];
    if (pump->mode == CUP_MODE_OFF)
        return cup_plain(CUP_REASON_OFF, 0, 0);
    if (pump->mode == CUP_MODE_HAND)
        return cup_plain(CUP_REASON_HAND,
                         cup_left(pass->now, pump->hand_ms, pump->hand_for_ms),
                         pump->hand_for_ms);
    if (pump->hand_for_ms > 0)
        return cup_plain(CUP_REASON_HAND_OVER, pump->hand_for_ms, 0);
    return pump->duty == CUP_NONE ? cup_plain(CUP_REASON_NO_DUTY, 0, 0)
                                  : duty_cause(pass, pump->duty);
}

static struct cup_cause not_fresh(cup_index about)
{
    return (struct cup_cause){.about = about, .reason = CUP_REASON_NOT_FRESH};
}

struct cup_cause cup_pass_wait(const struct cup_pass *pass, cup_index i)
{
    const struct cup_site *site = pass->site;
    const struct cup_pump_state *pump = &site->pumps[i];
    CUP_FLASH struct cup_pump *plan = &site->plan->pumps[i];
    for (uint8_t g = 0; g < plan->guard_count; g++)
        if (!cup_fresh(cup_reading_of(site, plan->guards[g].about)))
            return not_fresh(plan->guards[g].about);
    if (plan->proof && !cup_fresh(cup_reading_of(site, plan->proof->about)))
        return not_fresh(plan->proof->about);
    if (pump->mode == CUP_MODE_AUTO && pump->duty != CUP_NONE) {
        cup_index keep = site->plan->duties[pump->duty].keep;
        if (!cup_fresh(cup_reading_of(site, keep)))
            return not_fresh(keep);
    }
    if (site->plan->at_once > 0 && pass->running >= site->plan->at_once)
        return cup_plain(CUP_REASON_AT_ONCE, pass->running,
                         site->plan->at_once);
    return cup_plain(CUP_REASON_NONE, 0, 0);
}

struct cup_cause cup_site_why(const struct cup_site *site, cup_index i)
{
    CUP_FLASH struct cup_plan *plan = site->plan;
    struct cup_pass pass = {.site = site, .now = site->pass->clock_ms};
    if (i >= plan->pump_count)
        return cup_plain(CUP_REASON_NONE, 0, 0);
    const struct cup_pump_state *pump = &site->pumps[i];
    switch (cup_pump_shows(pump)) {
    case CUP_PUMP_TRIPPED:
    case CUP_PUMP_RESTING:
        return cup_pump_cause(&plan->pumps[i], pump, pass.now,
                              plan->boot_wait_ms);
    case CUP_PUMP_BLOCKED:
        return cup_pass_guard(&pass, i, pump->no);
    case CUP_PUMP_WAITING:
        return site->pass->flags & PASS_ON_HOLD
                   ? cup_plain(CUP_REASON_HOLD, 0, 0)
                   : cup_pass_wait(&pass, i);
    default:
        return cup_pass_wish(&pass, i);
    }
}
