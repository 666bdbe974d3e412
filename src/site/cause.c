/* Why: the numbers behind each decision of a pass, and telling of them. */
#include "inside.h"

void cup_pass_tell(struct cup_pass *pass, cup_index of, uint8_t kind)
{
    static CUP_FLASH uint8_t writes[CUP_KIND_COUNT] = {
        [CUP_KIND_START] = PASS_WRITE / 256,
        [CUP_KIND_STOP] = PASS_WRITE / 256,
        [CUP_KIND_CLEAR] = PASS_AT_ONCE / 256,
        [CUP_KIND_TRIP] = PASS_AT_ONCE / 256,
        [CUP_KIND_LOCK] = PASS_AT_ONCE / 256,
        [CUP_KIND_MODE] = PASS_AT_ONCE / 256,
        [CUP_KIND_ALERT] = PASS_WRITE / 256,
        [CUP_KIND_SETTING] = PASS_AT_ONCE / 256};
    pass->event.of = of;
    pass->event.kind = kind;
    if (CUP_USES_JOURNAL)
        cup_set_bits(&site_of(pass)->pass->flags, writes[kind] * 256u, true);
    if (pass->sink && pass->sink->take)
        pass->sink->take(pass->sink->self, &pass->event);
}

#if CUP_USES_JOURNAL
/* What a run gives may be bounded: by a day, by doses, or by its length. Its
 * start and its stop are in the journal before any water flows, and as soon as
 * it does not. */
static void write_bounded(const struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    cup_index by = pass->pump->duty;
    CUP_FLASH struct cup_duty *duty =
        by < site->plan->duty_count ? site->plan->duties + by : NULL;
    if (CUP_IF(PER_DAYS, pass->plan->per_day) ||
        (duty && (CUP_IF(DOSES, duty->dose) || CUP_IF(TURNS, duty->turn))))
        cup_set_bits(&site->pass->flags, PASS_AT_ONCE, true);
}
#endif

void cup_pass_tell_pump(struct cup_pass *pass, uint8_t kind)
{
    cup_pass_tell(pass, cup_pump_thing(site_of(pass)->plan, pass->i), kind);
#if CUP_USES_JOURNAL
    if (kind == CUP_KIND_START || kind == CUP_KIND_STOP)
        write_bounded(pass);
#endif
}

void cup_pass_note(struct cup_pass *pass, cup_index of, uint8_t kind,
                   uint8_t reason)
{
    cup_because(pass, reason, CUP_NONE);
    cup_pass_tell(pass, of, kind);
}

/* The cause for a reading that is lost, with its age, or was never known. */
uint8_t cup_pass_lost(struct cup_pass *pass, cup_index thing, uint8_t lost,
                      uint8_t unknown)
{
    const struct cup_site *site = site_of(pass);
    if (!(cup_flags_of(site, thing) & CUP_READING_LOST))
        return cup_because(pass, unknown, thing);
#if CUP_USES_FLOATS
    if (cup_floats_differ(site, thing)) {
        cup_because(pass, CUP_REASON_FLOATS_DIFFER, thing);
        return lost;
    }
    uint32_t age_ms = cup_site_age_ms(site, thing);
#else
    uint32_t age_ms =
        cup_elapsed(site->pass->clock_ms, cup_behind(site, thing)->good_ms);
#endif
    return cup_because_of(pass, lost, thing, cup_ms(age_ms), 0);
}

#if CUP_USES_STEERING
uint8_t cup_pass_mode(struct cup_pass *pass)
{
    const struct cup_pump_state *pump = pass->pump;
    int32_t ms = cup_ms(pump->hand_for_ms);
    if (pump->mode == CUP_MODE_HAND)
        return cup_because_of(pass, CUP_REASON_HAND, CUP_NONE, ms, ms);
    if (ms > 0)
        return cup_because_of(pass, CUP_REASON_HAND_OVER, CUP_NONE, ms, 0);
    return cup_because(
        pass, pump->mode == CUP_MODE_OFF ? CUP_REASON_OFF : CUP_REASON_AUTO,
        CUP_NONE);
}
#endif

/* The day's limit that is reached; of one that was told and is over, just
 * that. */
static uint8_t day_cause(struct cup_pass *pass, uint8_t reason)
{
#if CUP_USES_PER_DAYS
    CUP_FLASH struct cup_pump *plan = pass->plan;
    if (plan->per_day && pass->pump->no != CUP_REASON_NONE) {
        pass->event.cause.about = CUP_NONE;
        return cup_per_day_cause(
            plan->per_day, &site_of(pass)->per_days[plan->per_day_own],
            cup_run_of(pass->pump, pass->now),
            cup_pump_is(pass->pump, CUP_PUMP_IS_ON), &pass->event.cause);
    }
#endif
    return cup_because(pass, reason, CUP_NONE);
}

uint8_t cup_pass_guard(struct cup_pass *pass, uint8_t reason)
{
    if (CUP_USES_FAILS && (reason == CUP_REASON_CANNOT_DRIVE ||
                           reason == CUP_REASON_SHARES_FAILED))
        return cup_fails_cause(pass, reason);
    CUP_FLASH struct cup_guard *guard = cup_guard_of(pass->plan, reason);
    if (!guard)
        return day_cause(pass, reason);
    if (!cup_can_use(site_of(pass), guard->about))
        return cup_pass_lost(pass, guard->about, reason, reason);
    return cup_guard_cause(
        guard, reason, cup_level_of(site_of(pass), guard->about),
        cup_value_of(site_of(pass), guard->about), &pass->event.cause);
}

uint8_t cup_pass_rest(struct cup_pass *pass)
{
    pass->event.cause.about = CUP_NONE;
    return cup_pump_cause(pass->plan, pass->pump, pass->now,
                          site_of(pass)->plan->boot_wait_ms,
                          &pass->event.cause);
}

#if CUP_USES_TURNS
/* Why a turn has just ended: its time, or what it waited for. */
static uint8_t ended_cause(struct cup_pass *pass,
                           CUP_NUMBERS struct cup_turn *turn)
{
    const struct cup_site *site = site_of(pass);
    if (site->turns[cup_own(site->plan->turns, pass->duty->turn_own)].left_ms >
            0 &&
        turn->until != CUP_NONE)
        return cup_because_values(pass, CUP_REASON_REACHED, turn->until,
                                  cup_value_of(site, turn->until),
                                  CUP_TOLD(turn, until_above));
    return cup_because_of(pass, CUP_REASON_GIVEN,
                          cup_duty_thing(site->plan, pass->d),
                          (int32_t)turn->run_ms, 0);
}

/* Why a turn asks, or has just ended. */
static uint8_t turn_cause(struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    struct cup_turn room;
    const struct cup_turn_state *state =
        &site->turns[cup_own(site->plan->turns, pass->duty->turn_own)];
    if (!cup_turn_asks(state))
        return ended_cause(pass, cup_turn_of(pass, &room));
    return cup_because_of(pass, CUP_REASON_DUE,
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
    cup_latch_cause(cup_latch_of(&also->latch, &room),
                    &site->alsos[pass->duty->also_own],
                    cup_level_of(site, also->about),
                    cup_value_of(site, also->about), cause);
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
#if CUP_USES_DOSES
    if (pass->duty->dose && pass->latch->on) {
        struct cup_dose room;
        cup_dose_cause(
            cup_dose_of(pass, &room),
            &site->doses[cup_own(site->plan->doses, pass->duty->dose_own)],
            pass->latch, pass->now, cause);
    }
#endif
#if CUP_USES_ALSOS
    if (cause->reason == CUP_REASON_NONE && pass->duty->also &&
        pass->latch->on != site->alsos[pass->duty->also_own].own[0])
        return also_cause(pass); /* the other one decides */
#endif
    if (cause->reason == CUP_REASON_NONE) {
        struct cup_latch room;
        cup_latch_cause(cup_latch_of_duty(pass, &room), pass->latch,
                        cup_level_of(site, keep), cup_value_of(site, keep),
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
static cup_index without(const struct cup_pass *pass, uint8_t flag)
{
    const struct cup_site *site = site_of(pass);
    cup_index keep = pass->duty->keep;
    if (keep != CUP_NONE && !(cup_flags_of(site, keep) & flag))
        return keep;
#if CUP_USES_ALSOS
    CUP_FLASH struct cup_also *also = pass->duty->also;
    if (also && !(cup_flags_of(site, also->about) & flag))
        return also->about;
#endif
    return CUP_NONE;
}

CUP_APART uint8_t cup_pass_duty(struct cup_pass *pass)
{
#if CUP_USES_ROUTES
    cup_index shut = cup_route_kept_shut(pass);
    if (shut != CUP_NONE && cup_duty_wants(site_of(pass), pass->d))
        return cup_because(pass, CUP_REASON_ROUTE_SHUT,
                           cup_pump_thing(site_of(pass)->plan, shut));
#endif
    cup_index unusable = without(pass, CUP_READING_KNOWN);
    if (unusable != CUP_NONE)
        return cup_pass_lost(pass, unusable, CUP_REASON_READING_LOST,
                             CUP_REASON_NO_READING);
#if CUP_USES_TURNS
    if (pass->duty->turn)
        return turn_cause(pass);
#endif
#if CUP_USES_CLOCK
    CUP_FLASH struct cup_duty *duty = pass->duty;
    uint32_t clock_s = cup_site_clock_s(site_of(pass));
    if (duty->from != duty->to && clock_s > 0 &&
        !cup_within(duty->from, duty->to, (uint16_t)(clock_s % 86400 / 60)))
        return cup_because(pass, CUP_REASON_HOURS,
                           cup_duty_thing(site_of(pass)->plan, pass->d));
#endif
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
    return cup_because(pass, CUP_REASON_ROUTE, about);
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
        return cup_because(pass, CUP_REASON_OFF, CUP_NONE);
    if (pump->mode == CUP_MODE_HAND)
        return cup_because_of(
            pass, CUP_REASON_HAND, CUP_NONE,
            cup_ms(cup_left(pass->now, pump->hand_ms, pump->hand_for_ms)),
            cup_ms(pump->hand_for_ms));
    if (pump->hand_for_ms > 0)
        return cup_because_of(pass, CUP_REASON_HAND_OVER, CUP_NONE,
                              cup_ms(pump->hand_for_ms), 0);
    return CUP_REASON_NONE;
}
#endif

/* What decides before any duty does, NONE when nothing; else turns to the duty
 * that the pump is for. */
static uint8_t cause_before_duty(struct cup_pass *pass)
{
#if CUP_USES_STEERING
    uint8_t reason = switch_cause(pass);
    if (reason != CUP_REASON_NONE)
        return reason;
#endif
#if CUP_USES_ROUTES
    if (cup_pump_is(pass->pump, CUP_PUMP_IS_ROUTE))
        return route_cause(pass);
#endif
    if (pass->pump->duty == CUP_NONE)
        return cup_because(
            pass,
            CUP_IF(ROUTES, is_valve_of_any(site_of(pass), pass->i))
                ? CUP_REASON_NO_ROUTE
                : CUP_REASON_NO_DUTY,
            CUP_NONE);
    cup_look_at_duty(pass, (cup_index)pass->pump->duty);
    return CUP_REASON_NONE;
}

uint8_t cup_pass_wish(struct cup_pass *pass)
{
    uint8_t reason = cause_before_duty(pass);
    return reason == CUP_REASON_NONE ? cup_pass_duty(pass) : reason;
}

/* What the site, its group or its route make it wait for. */
static uint8_t wait_for_others(struct cup_pass *pass)
{
#if CUP_USES_AT_ONCE
    CUP_FLASH struct cup_plan *plan = site_of(pass)->plan;
    cup_index group = pass->plan->group;
    if (plan->at_once > 0 && pass->pumps_running >= plan->at_once &&
        !pass->plan->uncounted)
        return cup_because_of(pass, CUP_REASON_AT_ONCE, CUP_NONE,
                              pass->pumps_running, plan->at_once);
    if (group < plan->group_count &&
        site_of(pass)->groups[group] -
                CUP_IF_ELSE(ROUTES, cup_route_in_group(pass), 0) >=
            plan->groups[group])
        return cup_because_of(pass, CUP_REASON_GROUP_FULL, CUP_NONE,
                              site_of(pass)->groups[group],
                              plan->groups[group]);
#endif
#if CUP_USES_ROUTES
    return cup_route_wait(pass);
#else
    (void)pass;
    return CUP_REASON_NONE;
#endif
}

static bool is_stale(const struct cup_pass *pass, cup_index thing)
{
    return !(cup_flags_of(site_of(pass), thing) & CUP_READING_FRESH);
}

uint8_t cup_pass_wait(struct cup_pass *pass)
{
    CUP_FLASH struct cup_pump *plan = pass->plan;
    const struct cup_pump_state *pump = pass->pump;
    cup_index stale = CUP_NONE;
    if (!CUP_IF(STEERING, pump->mode != CUP_MODE_AUTO) &&
        pump->duty != CUP_NONE) {
        cup_look_at_duty(pass, (cup_index)pump->duty);
        stale = without(pass, CUP_READING_FRESH);
    }
#if CUP_USES_PROOFS
    if (plan->proof && is_stale(pass, plan->proof->about))
        stale = plan->proof->about;
#endif
    for (uint8_t g = plan->guard_count; g > 0; g--)
        if (is_stale(pass, plan->guards[g - 1].about))
            stale = plan->guards[g - 1].about;
    return stale == CUP_NONE ? wait_for_others(pass)
                             : cup_because(pass, CUP_REASON_NOT_FRESH, stale);
}

/* For whoever asks */

#if CUP_USES_TURNS
/* Why a turn does not ask yet. */
static void next_cause(struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    struct cup_turn room;
    CUP_NUMBERS struct cup_turn *turn = cup_turn_of(pass, &room);
    const struct cup_turn_state *state = &site->turns[pass->duty->turn_own];
    cup_index about = cup_duty_thing(site->plan, pass->d);
    bool is_day = true;
    CUP_WHERE(DAYS, is_day = turn->day == CUP_NONE ||
                             cup_site_is_day(site, turn->day);)
    uint32_t left = cup_turn_left(turn, state, pass->now, is_day);
    if (CUP_IF(CLOCK, turn->at_count > 0 && site->wall->s == 0))
        cup_because_of(pass, CUP_REASON_NO_CLOCK, about, cup_ms(state->left_ms),
                       0);
    else if (left == UINT32_MAX)
        cup_because(pass, CUP_REASON_AWAITS, about);
    else
        cup_because_of(pass, CUP_REASON_NEXT, about, cup_ms(left), 0);
}

/* A turn that neither asks nor has just ended. */
static bool is_turn_to_come(const struct cup_pass *pass)
{
    return pass->duty->turn &&
           !cup_turn_asks(&site_of(pass)->turns[pass->duty->turn_own]) &&
           !(cup_pump_is(pass->pump, CUP_PUMP_IS_ON) &&
             pass->pump->duty == pass->d) &&
           without(pass, CUP_READING_KNOWN) == CUP_NONE;
}
#endif

/* What a duty does, or will do next. */
static void why_duty(struct cup_pass *pass)
{
#if CUP_USES_TURNS
    if (is_turn_to_come(pass)) {
        next_cause(pass);
        return;
    }
#endif
    cup_pass_duty(pass);
}

/* While the pass that asks is over, what ran in it is counted afresh. */
static void count_pumps(struct cup_pass *pass)
{
    for (cup_index i = 0; i < site_of(pass)->plan->pump_count; i++)
        if (cup_pump_is(&site_of(pass)->pumps[i], CUP_PUMP_MAY_RUN) &&
            !site_of(pass)->plan->pumps[i].uncounted)
            pass->pumps_running++;
}

struct cup_cause cup_site_why_duty(const struct cup_site *site, cup_index i)
{
    struct cup_pass pass = {.now = site->pass->clock_ms};
    hold_site(&pass, site);
    cup_because(&pass, CUP_REASON_NONE, CUP_NONE);
    if (i >= site->plan->duty_count)
        return pass.event.cause;
    const struct cup_pump_state *pump =
        &site->pumps[site->plan->duties[i].pump];
    if (!cup_duty_wants(site, i) || pump->duty == i) {
        cup_look_at_duty(&pass, i);
        why_duty(&pass);
    } else
        cup_because(&pass, CUP_REASON_BUSY,
                    pump->duty == CUP_NONE
                        ? CUP_NONE
                        : cup_duty_thing(site->plan, (cup_index)pump->duty));
    return pass.event.cause;
}

struct cup_cause cup_site_why(const struct cup_site *site, cup_index i)
{
    CUP_FLASH struct cup_plan *plan = site->plan;
    struct cup_pass pass = {.now = site->pass->clock_ms};
    hold_site(&pass, site);
    cup_because(&pass, CUP_REASON_NONE, CUP_NONE);
    if (i >= plan->pump_count)
        return pass.event.cause;
    cup_look_at_pump(&pass, i);
    switch (cup_pump_shows(pass.pump)) {
    case CUP_PUMP_TRIPPED:
    case CUP_PUMP_RESTING:
        cup_pass_rest(&pass);
        break;
    case CUP_PUMP_BLOCKED:
        cup_pass_guard(&pass, pass.pump->no);
        break;
    case CUP_PUMP_WAITING:
        count_pumps(&pass);
        if (site->pass->flags & PASS_ON_HOLD)
            cup_because(&pass, CUP_REASON_HOLD, CUP_NONE);
        else
            cup_pass_wait(&pass);
        break;
    default:
        if (cause_before_duty(&pass) == CUP_REASON_NONE)
            why_duty(&pass);
    }
    return pass.event.cause;
}
