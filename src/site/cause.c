/* Why: the numbers behind each decision of a pass, and telling of them. */
#include "inside.h"

void cup_pass_tell(struct cup_pass *pass, cup_index of, uint8_t kind)
{
    static CUP_FLASH uint16_t writes[] = {[CUP_KIND_START] = PASS_WRITE,
                                          [CUP_KIND_STOP] = PASS_WRITE,
                                          [CUP_KIND_CLEAR] = PASS_AT_ONCE,
                                          [CUP_KIND_TRIP] = PASS_AT_ONCE,
                                          [CUP_KIND_LOCK] = PASS_AT_ONCE,
                                          [CUP_KIND_MODE] = PASS_AT_ONCE,
                                          [CUP_KIND_ALERT] = PASS_WRITE,
                                          [CUP_KIND_SETTING] = PASS_AT_ONCE,
                                          [CUP_KIND_LEAK] = 0};
    pass->event.of = of;
    pass->event.kind = kind;
    if (CUP_USES_JOURNAL)
        site_of(pass)->pass->flags |= writes[kind];
    if (pass->sink && pass->sink->take)
        pass->sink->take(pass->sink->self, &pass->event);
}

void cup_pass_tell_pump(struct cup_pass *pass, cup_index pump, uint8_t kind)
{
    cup_pass_tell(pass, cup_pump_thing(site_of(pass)->plan, pump), kind);
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
    if (cup_reading_of(site, thing).quality != CUP_QUALITY_LOST)
        return cup_because(pass, unknown, thing);
    return cup_because_of(pass, lost, thing,
                          cup_ms(cup_site_age_ms(site, thing)), 0);
}

uint8_t cup_pass_mode(struct cup_pass *pass, const struct cup_pump_state *pump)
{
    int32_t ms = cup_ms(pump->hand_for_ms);
    if (pump->mode == CUP_MODE_HAND)
        return cup_because_of(pass, CUP_REASON_HAND, CUP_NONE, ms, ms);
    if (ms > 0)
        return cup_because_of(pass, CUP_REASON_HAND_OVER, CUP_NONE, ms, 0);
    return cup_because(
        pass, pump->mode == CUP_MODE_OFF ? CUP_REASON_OFF : CUP_REASON_AUTO,
        CUP_NONE);
}

/* What shares a tank with a pump that does not obey, or is that itself. */
static uint8_t failing_cause(struct cup_pass *pass, cup_index i, uint8_t reason)
{
    CUP_FLASH struct cup_plan *plan = site_of(pass)->plan;
    CUP_FLASH struct cup_pump *pump = &plan->pumps[i];
    cup_index about = cup_pump_thing(plan, i);
    for (uint8_t g = 0;
         reason == CUP_REASON_SHARES_FAILED && g < pump->guard_count; g++)
        if (pump->guards[g].kind != CUP_GUARD_SUPPLY) {
            about = pump->guards[g].about;
            if (site_of(pass)->tanks[about - plan->sensor_count].failing > 0)
                break;
        }
    return cup_because(pass, reason, about);
}

/* The day's limit that is reached; of one that was told and is over, just
 * that. */
static uint8_t day_cause(struct cup_pass *pass, cup_index i, uint8_t reason)
{
    const struct cup_site *site = site_of(pass);
    const struct cup_pump_state *pump = &site->pumps[i];
    CUP_FLASH struct cup_pump *plan = &site->plan->pumps[i];
    if (!CUP_IF(PER_DAYS, plan->per_day) || pump->no == CUP_REASON_NONE)
        return cup_because(pass, reason, CUP_NONE);
    pass->event.cause.about = CUP_NONE;
    return cup_per_day_cause(plan->per_day, &site->per_days[plan->per_day_own],
                             cup_run_of(pump, pass->now),
                             cup_pump_is(pump, CUP_PUMP_IS_ON),
                             &pass->event.cause);
}

uint8_t cup_pass_guard(struct cup_pass *pass, cup_index i, uint8_t reason)
{
    CUP_FLASH struct cup_pump *plan = &site_of(pass)->plan->pumps[i];
    CUP_FLASH struct cup_guard *guard = cup_guard_of(plan, reason);
    if (reason == CUP_REASON_CANNOT_DRIVE || reason == CUP_REASON_SHARES_FAILED)
        return failing_cause(pass, i, reason);
    if (!guard)
        return day_cause(pass, i, reason);
    struct cup_reading reading = cup_reading_of(site_of(pass), guard->about);
    if (!cup_usable(reading))
        return cup_pass_lost(pass, guard->about, reason, reason);
    return cup_guard_cause(guard, reason, reading.value, &pass->event.cause);
}

uint8_t cup_pass_rest(struct cup_pass *pass, cup_index i)
{
    CUP_FLASH struct cup_plan *plan = site_of(pass)->plan;
    pass->event.cause.about = CUP_NONE;
    return cup_pump_cause(&plan->pumps[i], &site_of(pass)->pumps[i], pass->now,
                          plan->boot_wait_ms, &pass->event.cause);
}

/* Why a turn has just ended: its time, or what it waited for. */
static uint8_t ended_cause(struct cup_pass *pass, cup_index i,
                           CUP_NUMBERS struct cup_turn *turn)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_duty *duty = &site->plan->duties[i];
    if (site->turns[duty->turn_own].left_ms > 0 && turn->until != CUP_NONE)
        return cup_because_of(pass, CUP_REASON_REACHED, turn->until,
                              cup_reading_of(site, turn->until).value,
                              turn->until_above);
    return cup_because_of(pass, CUP_REASON_GIVEN, cup_duty_thing(site->plan, i),
                          cup_ms(turn->run_ms), 0);
}

/* Why a turn asks, has just ended, or does not ask yet. */
static uint8_t turn_cause(struct cup_pass *pass, cup_index i)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_duty *duty = &site->plan->duties[i];
    struct cup_turn room;
    CUP_NUMBERS struct cup_turn *turn = cup_turn_now(site, i, &room);
    const struct cup_turn_state *state = &site->turns[duty->turn_own];
    const struct cup_pump_state *pump = &site->pumps[duty->pump];
    cup_index about = cup_duty_thing(site->plan, i);
    uint32_t left = state->left_ms;
    if (!cup_turn_asks(state) && cup_pump_is(pump, CUP_PUMP_IS_ON) &&
        pump->duty == i)
        return ended_cause(pass, i, turn);
    if (cup_turn_asks(state) ||
        (CUP_IF(CLOCK, turn->at_count > 0) && site->wall->s == 0))
        return cup_because_of(
            pass, cup_turn_asks(state) ? CUP_REASON_DUE : CUP_REASON_NO_CLOCK,
            about, cup_ms(left), 0);
    left = cup_turn_left(turn, state, pass->now,
                         turn->day == CUP_NONE ||
                             cup_site_is_day(site, turn->day));
    return left == UINT32_MAX
               ? cup_because(pass, CUP_REASON_AWAITS, about)
               : cup_because_of(pass, CUP_REASON_NEXT, about, cup_ms(left), 0);
}

/* Why the second condition keeps a duty from asking, or stops it. */
static uint8_t also_cause(struct cup_pass *pass,
                          CUP_FLASH struct cup_duty *duty)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_also *also = duty->also;
    struct cup_latch room;
    CUP_NUMBERS struct cup_latch *latch = cup_latch_of(&also->latch, &room);
    struct cup_cause *cause = &pass->event.cause;
    cup_latch_cause(latch, &site->alsos[duty->also_own],
                    cup_reading_of(site, also->about).value, cause);
    if (cause->reason == CUP_REASON_NO_NEED)
        cause->reason = CUP_REASON_ALSO_NOT;
    cause->about = also->about;
    return cause->reason;
}

/* Why a duty that keeps a level asks or does not: doses, then the second
 * condition, then its own marks. */
CUP_APART static uint8_t keep_cause(struct cup_pass *pass, cup_index i)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_duty *duty = &site->plan->duties[i];
    const struct cup_latch_state *state = &site->duties[i].latch;
    struct cup_cause *cause = &pass->event.cause;
    cause->reason = CUP_REASON_NONE;
    if (CUP_IF(DOSES, duty->dose) && state->on) {
        struct cup_dose room;
        cup_dose_cause(cup_dose_now(site, i, &room),
                       &site->doses[duty->dose_own], state, pass->now, cause);
    }
    if (cause->reason == CUP_REASON_NONE && CUP_IF(ALSOS, duty->also) &&
        state->on != site->alsos[duty->also_own].own[0])
        return also_cause(pass, duty); /* the other one decides */
    if (cause->reason == CUP_REASON_NONE) {
        struct cup_latch room;
        cup_latch_cause(cup_latch_now(site, i, &room), state,
                        cup_reading_of(site, duty->keep).value, cause);
    }
    if (duty->line && cause->reason == CUP_REASON_ABOVE_STOP)
        cause->reason = CUP_REASON_FAR_FULL;
    cause->about = duty->keep;
    return cause->reason;
}

/* The first thing that a duty looks at and cannot use; CUP_NONE when it can
 * use all. */
static cup_index unusable_for(const struct cup_site *site,
                              CUP_FLASH struct cup_duty *duty)
{
    if (duty->keep != CUP_NONE && !cup_usable(cup_reading_of(site, duty->keep)))
        return duty->keep;
    if (CUP_IF(ALSOS, duty->also) &&
        !cup_usable(cup_reading_of(site, duty->also->about)))
        return duty->also->about;
    return CUP_NONE;
}

uint8_t cup_pass_duty(struct cup_pass *pass, cup_index i)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_duty *duty = &site->plan->duties[i];
    cup_index unusable = unusable_for(site, duty);
    if (unusable != CUP_NONE)
        return cup_pass_lost(pass, unusable, CUP_REASON_READING_LOST,
                             CUP_REASON_NO_READING);
    if (CUP_IF(TURNS, duty->turn))
        return turn_cause(pass, i);
    if (!CUP_USES_CLOCK)
        return keep_cause(pass, i);
    uint32_t clock_s = cup_site_clock_s(site);
    if (duty->from == duty->to || clock_s == 0 ||
        cup_within(duty->from, duty->to, (uint16_t)(clock_s % 86400 / 60)))
        return keep_cause(pass, i);
    return cup_because(pass, CUP_REASON_HOURS, cup_duty_thing(site->plan, i));
}

/* A valve runs for the pump behind it. */
static uint8_t route_cause(struct cup_pass *pass, cup_index i)
{
    const struct cup_site *site = site_of(pass);
    cup_index about = CUP_NONE;
    for (cup_index d = 0; d < site->plan->duty_count; d++) {
        CUP_FLASH struct cup_duty *duty = &site->plan->duties[d];
        for (uint8_t v = 0; v < duty->through_count; v++)
            if (duty->through[v] == i && site->pumps[duty->pump].duty == d)
                about = cup_duty_thing(site->plan, d);
    }
    return cup_because(pass, CUP_REASON_ROUTE, about);
}

static bool is_valve_of_any(const struct cup_site *site, cup_index i)
{
    for (cup_index d = 0; CUP_USES_ROUTES && d < site->plan->duty_count; d++)
        for (uint8_t v = 0; v < site->plan->duties[d].through_count; v++)
            if (site->plan->duties[d].through[v] == i)
                return true;
    return false;
}

uint8_t cup_pass_wish(struct cup_pass *pass, cup_index i)
{
    const struct cup_pump_state *pump = &site_of(pass)->pumps[i];
    if (CUP_IF(STEERING, pump->mode == CUP_MODE_OFF))
        return cup_because(pass, CUP_REASON_OFF, CUP_NONE);
    if (CUP_IF(STEERING, pump->mode == CUP_MODE_HAND))
        return cup_because_of(
            pass, CUP_REASON_HAND, CUP_NONE,
            cup_ms(cup_left(pass->now, pump->hand_ms, pump->hand_for_ms)),
            cup_ms(pump->hand_for_ms));
    if (CUP_IF(STEERING, pump->hand_for_ms > 0))
        return cup_because_of(pass, CUP_REASON_HAND_OVER, CUP_NONE,
                              cup_ms(pump->hand_for_ms), 0);
    if (CUP_IF(ROUTES, cup_pump_is(pump, CUP_PUMP_IS_ROUTE)))
        return route_cause(pass, i);
    if (pump->duty == CUP_NONE)
        return cup_because(pass,
                           is_valve_of_any(site_of(pass), i)
                               ? CUP_REASON_NO_ROUTE
                               : CUP_REASON_NO_DUTY,
                           CUP_NONE);
    return cup_pass_duty(pass, (cup_index)pump->duty);
}

/* What the site, its group or its route make it wait for. */
static uint8_t wait_for_others(struct cup_pass *pass, cup_index i)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_plan *plan = site->plan;
    CUP_FLASH struct cup_pump *pump = &plan->pumps[i];
    if (CUP_IF(AT_ONCE, plan->at_once > 0) &&
        pass->pumps_running >= plan->at_once && !pump->uncounted)
        return cup_because_of(pass, CUP_REASON_AT_ONCE, CUP_NONE,
                              pass->pumps_running, plan->at_once);
    if (CUP_IF(AT_ONCE, pump->group < plan->group_count) &&
        site->groups[pump->group] >= plan->groups[pump->group])
        return cup_because_of(pass, CUP_REASON_GROUP_FULL, CUP_NONE,
                              site->groups[pump->group],
                              plan->groups[pump->group]);
    return CUP_USES_ROUTES ? cup_route_wait(pass, i) : CUP_REASON_NONE;
}

/* The first thing that its duty looks at and that is not fresh; CUP_NONE when
 * all is. */
static cup_index stale_for_duty(const struct cup_site *site,
                                const struct cup_pump_state *pump)
{
    if (CUP_IF(STEERING, pump->mode != CUP_MODE_AUTO) || pump->duty == CUP_NONE)
        return CUP_NONE;
    CUP_FLASH struct cup_duty *duty = &site->plan->duties[pump->duty];
    if (duty->keep != CUP_NONE && !cup_fresh(cup_reading_of(site, duty->keep)))
        return duty->keep;
    if (CUP_IF(ALSOS, duty->also) &&
        !cup_fresh(cup_reading_of(site, duty->also->about)))
        return duty->also->about;
    return CUP_NONE;
}

uint8_t cup_pass_wait(struct cup_pass *pass, cup_index i)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_pump *plan = &site->plan->pumps[i];
    cup_index stale = stale_for_duty(site, &site->pumps[i]);
    if (CUP_IF(PROOFS, plan->proof) &&
        !cup_fresh(cup_reading_of(site, plan->proof->about)))
        stale = plan->proof->about;
    for (uint8_t g = plan->guard_count; g > 0; g--)
        if (!cup_fresh(cup_reading_of(site, plan->guards[g - 1].about)))
            stale = plan->guards[g - 1].about;
    return stale == CUP_NONE ? wait_for_others(pass, i)
                             : cup_because(pass, CUP_REASON_NOT_FRESH, stale);
}

/* While the pass that asks is over, what ran in it is counted afresh. */
static void count_pumps(struct cup_pass *pass)
{
    for (cup_index i = 0; i < site_of(pass)->plan->pump_count; i++)
        if (cup_pump_is(&site_of(pass)->pumps[i], CUP_PUMP_IS_ON) &&
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
    if (!cup_duty_wants(site, i) || pump->duty == i)
        cup_pass_duty(&pass, i);
    else
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
    const struct cup_pump_state *pump = &site->pumps[i];
    switch (cup_pump_shows(pump)) {
    case CUP_PUMP_TRIPPED:
    case CUP_PUMP_RESTING:
        cup_pass_rest(&pass, i);
        break;
    case CUP_PUMP_BLOCKED:
        cup_pass_guard(&pass, i, pump->no);
        break;
    case CUP_PUMP_WAITING:
        count_pumps(&pass);
        if (site->pass->flags & PASS_ON_HOLD)
            cup_because(&pass, CUP_REASON_HOLD, CUP_NONE);
        else
            cup_pass_wait(&pass, i);
        break;
    default:
        cup_pass_wish(&pass, i);
    }
    return pass.event.cause;
}
