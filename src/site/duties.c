/* What each duty asks for, and which of them gets a shared pump. */
#include "inside.h"

/* A pump runs for a duty, not by hand. */
static bool runs_for(const struct cup_site *site, cup_index i)
{
    const struct cup_pump_state *pump =
        &site->pumps[site->plan->duties[i].pump];
    return cup_pump_is(pump, CUP_PUMP_IS_ON) && pump->duty == i &&
           pump->mode == CUP_MODE_AUTO;
}

static bool is_new(const struct cup_site *site, cup_index thing)
{
    cup_index sensor = cup_thing_sensor(site->plan, thing);
    return site->sensors[sensor].reading.flags & CUP_READING_NEW;
}

/* The second condition: its own latch, and whether both together ask. */
CUP_RARE static void step_also(struct cup_pass *pass, cup_index i)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_duty *duty = &site->plan->duties[i];
    CUP_FLASH struct cup_also *also = duty->also;
    struct cup_latch_state *state = &site->alsos[duty->also_own];
    struct cup_latch room;
    CUP_NUMBERS struct cup_latch *latch = cup_latch_of(&also->latch, &room);
    bool first = site->duties[i].latch.on;
    struct cup_reading reading = cup_reading_of(site, also->about);
    int32_t shown = cup_shown_of(site, also->about);
    uint32_t left = cup_duty_step(latch, state, pass->now, reading, shown,
                                  is_new(site, also->about));
    if (CUP_USES_SLACK)
        cup_narrow_latch(site, also->about, reading.value, shown, latch, state);
    cup_quiet_for(pass, left);
    bool usable =
        cup_usable(reading) && cup_usable(cup_reading_of(site, duty->keep));
    bool goes_on = also->both_stop && state->own[0] && (first || state->on);
    state->own[0] = usable && ((first && state->on) || goes_on);
}

CUP_RARE static void step_dose(struct cup_pass *pass, cup_index i)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_duty *duty = &site->plan->duties[i];
    struct cup_latch_state *state = &site->duties[i].latch;
    struct cup_dose room;
    struct cup_latch more_room;
    CUP_NUMBERS struct cup_dose *dose = cup_dose_now(site, i, &room);
    CUP_NUMBERS struct cup_latch *latch = cup_latch_now(site, i, &more_room);
    struct cup_reading reading = cup_reading_of(site, duty->keep);
    bool was_out = state->own[CUP_DOSE_PHASE] == CUP_DOSE_OUT;
    uint32_t left = cup_dose_step(
        dose, &site->doses[duty->dose_own], state, pass->now,
        cup_usable(reading) && cup_latch_past_stop(latch, reading.value),
        runs_for(site, i), site->pumps[duty->pump].since_ms);
    cup_quiet_for(pass, left);
    if (was_out || state->own[CUP_DOSE_PHASE] != CUP_DOSE_OUT)
        return;
    cup_because_of(pass, CUP_REASON_DOSES_OUT, duty->keep,
                   state->own[CUP_DOSE_COUNT], 0);
    cup_pass_tell(pass, cup_duty_thing(site->plan, i), CUP_KIND_ALERT);
}

/* A dawn that came with the boot is none when the last turn is young: the
 * journal knows. */
static bool is_dawn(const struct cup_site *site,
                    CUP_NUMBERS struct cup_turn *turn,
                    const struct cup_turn_state *state, uint32_t now)
{
    uint8_t flags = cup_day_flags(&site->days[turn->day]);
    if (!(flags & CUP_DAY_IS_DAWN))
        return false;
    return (flags & CUP_DAY_WAS_NIGHT) || !(state->flags & CUP_TURN_EVER) ||
           cup_turn_age(state, now) >= turn->every_ms;
}

/* Without a clock its hours count for nothing. */
static bool in_hours(const struct cup_pass *pass,
                     CUP_FLASH struct cup_duty *duty)
{
    return duty->from == duty->to || pass->minute == CUP_NO_MINUTE ||
           cup_within(duty->from, duty->to, pass->minute);
}

/* What ends a turn before its time. */
static bool is_reached(const struct cup_site *site,
                       CUP_NUMBERS struct cup_turn *turn)
{
    if (turn->until == CUP_NONE)
        return false;
    struct cup_reading reading = cup_reading_of(site, turn->until);
    bool reached = cup_usable(reading) && reading.value > turn->until_above;
    int32_t passed = turn->until_above + !reached;
    if (CUP_USES_SLACK)
        cup_narrow_marks(site, turn->until, reading.value, passed, passed);
    return reached;
}

CUP_RARE static void step_turn(struct cup_pass *pass, cup_index i)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_duty *duty = &site->plan->duties[i];
    struct cup_turn room;
    CUP_NUMBERS struct cup_turn *turn = cup_turn_now(site, i, &room);
    struct cup_turn_state *state = &site->turns[duty->turn_own];
    struct cup_turn_look look = {.minute = pass->minute, .is_day = true};
    look.running = runs_for(site, i);
    const struct cup_pump_state *pump = &site->pumps[duty->pump];
    bool is_on = cup_pump_is(pump, CUP_PUMP_IS_ON) && pump->duty == i;
    look.run_since_ms = pump->since_ms;
    look.run_until_ms = is_on ? pass->now : pump->since_ms;
    if (CUP_USES_CLOCK && !in_hours(pass, duty))
        look.is_day = false;
    if (CUP_IF(DAYS, turn->day != CUP_NONE) && look.is_day) {
        look.is_day = cup_site_is_day(site, turn->day);
        look.is_dawn = is_dawn(site, turn, state, pass->now);
    }
    look.is_reached = is_reached(site, turn);
    uint32_t left = cup_turn_step(turn, state, pass->now, &look);
    if (CUP_IF(CLOCK, turn->at_count > 0))
        left = cup_least(left, cup_pass_next_minute(pass));
    cup_quiet_for(pass, left);
}

static void step_keep(struct cup_pass *pass, cup_index i)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_duty *duty = &site->plan->duties[i];
    struct cup_latch_state *state = &site->duties[i].latch;
    struct cup_latch room;
    CUP_NUMBERS struct cup_latch *latch = cup_latch_now(site, i, &room);
    struct cup_reading reading = cup_reading_of(site, duty->keep);
    int32_t shown = cup_shown_of(site, duty->keep);
    uint32_t left = cup_duty_step(latch, state, pass->now, reading, shown,
                                  is_new(site, duty->keep));
    if (CUP_USES_SLACK)
        cup_narrow_latch(site, duty->keep, reading.value, shown, latch, state);
    cup_quiet_for(pass, left);
    if (CUP_IF(ALSOS, duty->also))
        step_also(pass, i);
    if (CUP_IF(DOSES, duty->dose) &&
        (state->on || state->own[CUP_DOSE_PHASE] || state->own[CUP_DOSE_COUNT]))
        step_dose(pass, i); /* else there is no session */
}

/* Outside its hours a duty that keeps a level lets go, as if it had been lost;
 * a turn goes on to its end. */
CUP_RARE static void step_hours(struct cup_pass *pass, cup_index i)
{
    CUP_FLASH struct cup_duty *duty = &site_of(pass)->plan->duties[i];
    cup_quiet_for(pass, cup_pass_next_minute(pass));
    if (duty->turn || in_hours(pass, duty))
        return;
    cup_latch_release(&site_of(pass)->duties[i].latch);
    if (CUP_IF(ALSOS, duty->also))
        site_of(pass)->alsos[duty->also_own].own[0] = 0;
}

static void step_duty(struct cup_pass *pass, cup_index i)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_duty *duty = &site->plan->duties[i];
    const struct cup_pump_state *pump = &site->pumps[duty->pump];
    if (CUP_IF(STEERING, cup_pump_is(pump, CUP_PUMP_IS_STEERED)) &&
        pump->mode == CUP_MODE_AUTO)
        cup_latch_release(&site->duties[i].latch);
    if (CUP_IF(TURNS, duty->turn))
        step_turn(pass, i);
    else
        step_keep(pass, i);
    if (CUP_IF(CLOCK, duty->from != duty->to))
        step_hours(pass, i);
}

bool cup_duty_wants(const struct cup_site *site, cup_index i)
{
    CUP_FLASH struct cup_duty *duty = &site->plan->duties[i];
    const struct cup_latch_state *state = &site->duties[i].latch;
    if (CUP_IF(TURNS, duty->turn))
        return cup_turn_asks(&site->turns[duty->turn_own]) &&
               (duty->keep == CUP_NONE ||
                cup_usable(cup_reading_of(site, duty->keep)));
    bool asks = CUP_IF(ALSOS, duty->also) ? site->alsos[duty->also_own].own[0]
                                          : state->on;
    return asks && (!CUP_IF(DOSES, duty->dose) || cup_dose_asks(state));
}

/* A pump is driven by the first duty that asks, in the order of the plan. The
 * one that drives it now keeps it, and each run is one duty's: between two the
 * pump stops. */
static void offer(const struct cup_site *site, cup_index i)
{
    struct cup_pump_state *pump = &site->pumps[site->plan->duties[i].pump];
    if (CUP_IF(STEERING, pump->mode != CUP_MODE_AUTO) ||
        (cup_pump_is(pump, CUP_PUMP_IS_ON) && pump->duty != i))
        return;
    if (!cup_pump_is(pump, CUP_PUMP_IS_WANTED))
        pump->duty = i;
    cup_pump_set(pump, CUP_PUMP_IS_WANTED, true);
}

CUP_APART void cup_pass_duties(struct cup_pass *pass)
{
    const cup_index duties = site_of(pass)->plan->duty_count;
    if (!pass->still)
        for (cup_index i = 0; i < duties; i++)
            step_duty(pass, i);
    for (cup_index i = 0; i < duties; i++)
        if (cup_duty_wants(site_of(pass), i))
            offer(site_of(pass), i);
    if (CUP_IF(ROUTES, site_of(pass)->plan->routes > 0))
        cup_pass_routes(pass);
}
