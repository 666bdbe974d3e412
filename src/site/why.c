/* Why: the numbers behind each decision of a pass. */
#include "inside.h"

/* The cause for a reading that is lost, with its age, or was never known. */
uint8_t cup_in_why_lost(struct cup_pass *pass, cup_index thing, uint8_t lost,
                        uint8_t unknown)
{
    const struct cup_site *site = site_of(pass);
    if (!(cup_in_levels_flags(site, thing) & CUP_READING_LOST))
        return cup_in_because(pass, unknown, thing);
    if (CUP_IF(FLOATS, cup_in_levels_differ(site, thing))) {
        cup_in_because(pass, CUP_REASON_FLOATS_DIFFER, thing);
        return lost;
    }
    uint32_t age_ms =
        CUP_IF_ELSE(FLOATS, cup_site_age_ms(site, thing),
                    cup_elapsed(site->pass->clock_ms,
                                cup_in_levels_behind(site, thing)->good_ms));
    return cup_in_because_of(pass, lost, thing, cup_in_number_of_ms(age_ms), 0);
}

#if CUP_USES_STEERING
/* The pump looked at is switched off: for good, or for how long. */
static uint8_t off_cause(struct cup_pass *pass)
{
    return CUP_IF_ELSE(CHOICES,
                       cup_in_choices_cause(pass, pass->i, CUP_REASON_OFF,
                                            CUP_REASON_OFF_FOR, CUP_NONE),
                       cup_in_because(pass, CUP_REASON_OFF, CUP_NONE));
}

uint8_t cup_in_why_mode(struct cup_pass *pass)
{
    const struct cup_pump_state *pump = pass->pump;
    int32_t ms = cup_in_number_of_ms(pump->hand_for_ms);
    if (pump->mode == CUP_MODE_HAND)
        return cup_in_because_of(pass, CUP_REASON_HAND, CUP_NONE, ms, ms);
    if (ms > 0)
        return cup_in_because_of(pass, CUP_REASON_HAND_OVER, CUP_NONE, ms, 0);
    return pump->mode == CUP_MODE_OFF
               ? off_cause(pass)
               : cup_in_because(pass, CUP_REASON_AUTO, CUP_NONE);
}
#endif

/* The day's limit that is reached; of one that was told and is over, just
 * that. */
static uint8_t day_cause(struct cup_pass *pass, uint8_t reason)
{
    CUP_WHERE(PER_DAYS, {
        CUP_FLASH struct cup_pump *plan = pass->pump_plan;
        if (plan->per_day && pass->pump->no != CUP_REASON_NONE) {
            pass->event.cause.about = CUP_NONE;
            return cup_per_day_cause(
                plan->per_day, &site_of(pass)->per_days[plan->per_day_own],
                cup_in_pass_run(pass->pump, pass->now),
                cup_pump_is(pass->pump, CUP_PUMP_IS_ON), &pass->event.cause);
        }
    })
    return cup_in_because(pass, reason, CUP_NONE);
}

uint8_t cup_in_why_guard(struct cup_pass *pass, uint8_t reason)
{
    if (CUP_USES_FAILS && (reason == CUP_REASON_CANNOT_DRIVE ||
                           reason == CUP_REASON_SHARES_FAILED))
        return cup_in_fails_cause(pass, reason);
    CUP_FLASH struct cup_guard *guard = cup_guard_of(pass->pump_plan, reason);
    if (!guard)
        return day_cause(pass, reason);
    if (!cup_in_levels_decides(site_of(pass), guard->about))
        return cup_in_why_lost(pass, guard->about, reason, reason);
    enum cup_end end = cup_in_levels_end_for(guard);
    return cup_guard_cause(
        guard, reason, cup_in_levels_end(site_of(pass), guard->about, end),
        cup_in_levels_end_value(site_of(pass), guard->about, end),
        &pass->event.cause);
}

uint8_t cup_in_why_rest(struct cup_pass *pass)
{
    pass->event.cause.about = CUP_NONE;
    return cup_pump_cause(pass->pump_plan, pass->pump, pass->now,
                          site_of(pass)->plan->boot_wait_ms,
                          &pass->event.cause);
}

#if CUP_USES_TURNS
/* Why a turn has just ended: its time, or what it waited for. */
static uint8_t ended_cause(struct cup_pass *pass,
                           CUP_NUMBERS struct cup_turn *turn)
{
    const struct cup_site *site = site_of(pass);
    if (site->turns[cup_in_pass_own(site->plan->turns, pass->duty->turn_own)]
                .left_ms > 0 &&
        turn->until != CUP_NONE)
        return cup_in_because_values(
            pass, CUP_REASON_REACHED, turn->until,
            cup_in_levels_end_value(site, turn->until, CUP_END_HIGH),
            CUP_TOLD(turn, until_above));
    return cup_in_because_of(pass, CUP_REASON_GIVEN,
                             cup_duty_thing(site->plan, pass->d),
                             (int32_t)turn->run_ms, 0);
}

/* Why a turn asks, or has just ended. */
static uint8_t turn_cause(struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    struct cup_turn room;
    const struct cup_turn_state *state =
        &site->turns[cup_in_pass_own(site->plan->turns, pass->duty->turn_own)];
    if (!cup_turn_asks(state))
        return ended_cause(pass, cup_in_pass_turn(pass, &room));
    return cup_in_because_of(pass, CUP_REASON_DUE,
                             cup_duty_thing(site->plan, pass->d),
                             (int32_t)state->left_ms, 0);
}
#endif

#if CUP_USES_ALSOS
/* Why the second condition keeps a duty from asking, or stops it. */
static uint8_t also_cause(struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_also *also = pass->duty->also;
    struct cup_latch room;
    struct cup_cause *cause = &pass->event.cause;
    enum cup_end end = cup_in_levels_end_of(&also->latch);
    cup_latch_cause(cup_latch_of(&also->latch, &room),
                    &site->alsos[pass->duty->also_own],
                    cup_in_levels_end(site, also->about, end),
                    cup_in_levels_end_value(site, also->about, end), cause);
    if (cause->reason == CUP_REASON_NO_NEED)
        cause->reason = CUP_REASON_ALSO_NOT;
    cause->about = also->about;
    return cause->reason;
}
#endif

/* Why a duty that keeps a level asks or does not: doses, then the second
 * condition, then its own marks. */
static uint8_t keep_cause(struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    struct cup_cause *cause = &pass->event.cause;
    cup_index keep = pass->duty->keep;
    cause->reason = CUP_REASON_NONE;
    CUP_WHERE(DOSES, {
        if (pass->duty->dose && pass->latch->on) {
            struct cup_dose room;
            cup_dose_cause(cup_in_pass_dose(pass, &room),
                           &site->doses[cup_in_pass_own(site->plan->doses,
                                                        pass->duty->dose_own)],
                           pass->latch, pass->now, cause);
        }
    })
    CUP_WHERE(ALSOS, {
        if (cause->reason == CUP_REASON_NONE && pass->duty->also &&
            pass->latch->on != site->alsos[pass->duty->also_own].own[0])
            return also_cause(pass); /* the other one decides */
    })
    if (cause->reason == CUP_REASON_NONE) {
        struct cup_latch room;
        cup_latch_cause(cup_in_pass_latch(pass, &room), pass->latch,
                        cup_in_levels_end(site, keep, CUP_END_HIGH),
                        cup_in_levels_end_value(site, keep, CUP_END_HIGH),
                        cause);
    }
    if (CUP_IF(LINES, pass->duty->line) &&
        cause->reason == CUP_REASON_ABOVE_STOP)
        cause->reason = CUP_REASON_FAR_FULL;
    cause->about = keep;
    return cause->reason;
}

/* The first thing that the duty looked at looks at and that has not `flag`;
 * CUP_NONE when all have. */
cup_index cup_in_why_without(const struct cup_pass *pass, uint8_t flag)
{
    const struct cup_site *site = site_of(pass);
    cup_index keep = pass->duty->keep;
    if (keep != CUP_NONE && !(cup_in_levels_sound(site, keep) & flag))
        return keep;
    CUP_WHERE(ALSOS, {
        CUP_FLASH struct cup_also *also = pass->duty->also;
        if (also && !(cup_in_levels_sound(site, also->about) & flag))
            return also->about;
    })
    return CUP_NONE;
}

uint8_t cup_in_why_duty(struct cup_pass *pass)
{
    CUP_WHERE(CHOICES, {
        if (cup_in_choices_off(site_of(pass), pass->d))
            return cup_in_choices_cause(
                pass, (cup_index)(site_of(pass)->plan->pump_count + pass->d),
                CUP_REASON_DUTY_OFF, CUP_REASON_DUTY_OFF_FOR,
                cup_duty_thing(site_of(pass)->plan, pass->d));
    })
    CUP_WHERE(TRIES, {
        const struct cup_site *site = site_of(pass);
        pass->event.cause.about = cup_duty_thing(site->plan, pass->d);
        uint8_t trips = cup_tries_cause(
            &site->tries[pass->d], pass->now,
            site->plan->pumps[pass->duty->pump].retry_ms, &pass->event.cause);
        if (trips != CUP_REASON_NONE)
            return trips;
    })
    CUP_WHERE(ROUTES, {
        cup_index shut = cup_in_routes_kept_shut(pass);
        if (shut != CUP_NONE && cup_in_wants(site_of(pass), pass->d))
            return cup_in_because(pass, CUP_REASON_ROUTE_SHUT,
                                  cup_pump_thing(site_of(pass)->plan, shut));
    })
    cup_index unusable = cup_in_why_without(pass, CUP_READING_KNOWN);
    if (unusable != CUP_NONE)
        return cup_in_why_lost(pass, unusable, CUP_REASON_READING_LOST,
                               CUP_REASON_NO_READING);
    CUP_WHERE(TURNS, if (pass->duty->turn) return turn_cause(pass);)
    CUP_WHERE(CLOCK, {
        CUP_FLASH struct cup_duty *duty = pass->duty;
        uint32_t clock_s = cup_site_clock_s(site_of(pass));
        if (duty->from != duty->to && clock_s > 0 &&
            !cup_within(duty->from, duty->to, (uint16_t)(clock_s % 86400 / 60)))
            return cup_in_because(pass, CUP_REASON_HOURS,
                                  cup_duty_thing(site_of(pass)->plan, pass->d));
    })
    return keep_cause(pass);
}

#if CUP_USES_ROUTES
/* A valve runs for the pump behind it. */
static uint8_t route_cause(struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    cup_index about = CUP_NONE;
    for (cup_index d = 0; d < site->plan->duty_count; d++) {
        CUP_FLASH struct cup_duty *duty = &site->plan->duties[d];
        for (uint8_t v = 0; v < duty->through_count; v++)
            if (duty->through[v] == pass->i &&
                site->pumps[duty->pump].duty == d)
                about = cup_duty_thing(site->plan, d);
    }
    return cup_in_because(pass, CUP_REASON_ROUTE, about);
}

static bool is_valve_of_any(const struct cup_site *site, cup_index i)
{
    for (cup_index d = 0; d < site->plan->duty_count; d++)
        for (uint8_t v = 0; v < site->plan->duties[d].through_count; v++)
            if (site->plan->duties[d].through[v] == i)
                return true;
    return false;
}
#endif

#if CUP_USES_STEERING
/* What the switch has to do with it; NONE when it is at auto. */
static uint8_t switch_cause(struct cup_pass *pass)
{
    const struct cup_pump_state *pump = pass->pump;
    if (pump->mode == CUP_MODE_OFF)
        return off_cause(pass);
    if (pump->mode == CUP_MODE_HAND)
        return cup_in_because_of(
            pass, CUP_REASON_HAND, CUP_NONE,
            cup_in_number_of_ms(
                cup_left(pass->now, pump->hand_ms, pump->hand_for_ms)),
            cup_in_number_of_ms(pump->hand_for_ms));
    if (pump->hand_for_ms > 0)
        return cup_in_because_of(pass, CUP_REASON_HAND_OVER, CUP_NONE,
                                 cup_in_number_of_ms(pump->hand_for_ms), 0);
    return CUP_REASON_NONE;
}
#endif

/* What decides before any duty does, NONE when nothing; else turns to the duty
 * that the pump is for. */
uint8_t cup_in_why_before_duty(struct cup_pass *pass)
{
    CUP_WHERE(STEERING, {
        uint8_t reason = switch_cause(pass);
        if (reason != CUP_REASON_NONE)
            return reason;
    })
    CUP_WHERE(ROUTES, {
        if (cup_pump_is(pass->pump, CUP_PUMP_IS_ROUTE))
            return route_cause(pass);
    })
    if (pass->pump->duty == CUP_NONE)
        return cup_in_because(
            pass,
            CUP_IF(ROUTES, is_valve_of_any(site_of(pass), pass->i))
                ? CUP_REASON_NO_ROUTE
                : CUP_REASON_NO_DUTY,
            CUP_NONE);
    cup_in_pass_duty(pass, (cup_index)pass->pump->duty);
    return CUP_REASON_NONE;
}

uint8_t cup_in_why_wish(struct cup_pass *pass)
{
    uint8_t reason = cup_in_why_before_duty(pass);
    return reason == CUP_REASON_NONE ? cup_in_why_duty(pass) : reason;
}

/* What the site, its group or its route make it wait for. */
static uint8_t wait_for_others(struct cup_pass *pass)
{
    CUP_WHERE(AT_ONCE, {
        CUP_FLASH struct cup_plan *plan = site_of(pass)->plan;
        cup_index group = pass->pump_plan->group;
        if (plan->at_once > 0 && pass->pumps_running >= plan->at_once &&
            !pass->pump_plan->uncounted)
            return cup_in_because_of(pass, CUP_REASON_AT_ONCE, CUP_NONE,
                                     pass->pumps_running, plan->at_once);
        if (group < plan->group_count &&
            site_of(pass)->groups[group] -
                    CUP_IF_ELSE(ROUTES, cup_in_routes_in_group(pass), 0) >=
                plan->groups[group])
            return cup_in_because_of(pass, CUP_REASON_GROUP_FULL, CUP_NONE,
                                     site_of(pass)->groups[group],
                                     plan->groups[group]);
    })
    (void)pass;
    return CUP_IF_ELSE(ROUTES, cup_in_routes_wait(pass), CUP_REASON_NONE);
}

static bool is_stale(const struct cup_pass *pass, cup_index thing)
{
    return !(cup_in_levels_flags(site_of(pass), thing) & CUP_READING_FRESH);
}

uint8_t cup_in_why_wait(struct cup_pass *pass)
{
    CUP_FLASH struct cup_pump *plan = pass->pump_plan;
    const struct cup_pump_state *pump = pass->pump;
    cup_index stale = CUP_NONE;
    if (!CUP_IF(STEERING, pump->mode != CUP_MODE_AUTO) &&
        pump->duty != CUP_NONE) {
        cup_in_pass_duty(pass, (cup_index)pump->duty);
        stale = cup_in_why_without(pass, CUP_READING_FRESH);
    }
    CUP_WHERE(PROOFS, {
        if (plan->proof && is_stale(pass, plan->proof->about))
            stale = plan->proof->about;
    })
    for (uint8_t g = plan->guard_count; g > 0; g--)
        if (is_stale(pass, plan->guards[g - 1].about))
            stale = plan->guards[g - 1].about;
    return stale == CUP_NONE
               ? wait_for_others(pass)
               : cup_in_because(pass, CUP_REASON_NOT_FRESH, stale);
}
