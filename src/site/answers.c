/* What the site does, why, and how it is, for whoever asks. Changes nothing. */
#include "inside.h"

#if CUP_USES_TURNS
/* Why a turn does not ask yet. */
static void next_cause(struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    struct cup_turn room;
    CUP_NUMBERS struct cup_turn *turn = cup_in_pass_turn(pass, &room);
    const struct cup_turn_state *state = &site->turns[pass->duty->turn_own];
    cup_index about = cup_duty_thing(site->plan, pass->d);
    bool is_day = true;
    CUP_WHERE(DAYS, is_day = turn->day == CUP_NONE ||
                             cup_site_is_day(site, turn->day);)
    uint32_t left = cup_turn_left(turn, state, pass->now, is_day);
    if (CUP_IF(CLOCK, turn->at_count > 0 && site->wall->s == 0))
        cup_in_because_of(pass, CUP_REASON_NO_CLOCK, about,
                          cup_in_number_of_ms(state->left_ms), 0);
    else if (left == UINT32_MAX)
        cup_in_because(pass, CUP_REASON_AWAITS, about);
    else
        cup_in_because_of(pass, CUP_REASON_NEXT, about,
                          cup_in_number_of_ms(left), 0);
}

/* A turn that neither asks nor has just ended. */
static bool is_turn_to_come(const struct cup_pass *pass)
{
    return pass->duty->turn &&
           !CUP_IF(CHOICES, cup_in_choices_off(site_of(pass), pass->d)) &&
           !cup_turn_asks(&site_of(pass)->turns[pass->duty->turn_own]) &&
           !(cup_pump_is(pass->pump, CUP_PUMP_IS_ON) &&
             pass->pump->duty == pass->d) &&
           cup_in_why_without(pass, CUP_READING_KNOWN) == CUP_NONE;
}
#endif

/* What a duty does, or will do next. */
static void why_duty(struct cup_pass *pass)
{
    CUP_WHERE(TURNS, {
        if (is_turn_to_come(pass)) {
            next_cause(pass);
            return;
        }
    })
    cup_in_why_duty(pass);
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
    cup_in_because(&pass, CUP_REASON_NONE, CUP_NONE);
    if (i >= site->plan->duty_count)
        return pass.event.cause;
    const struct cup_pump_state *pump =
        &site->pumps[site->plan->duties[i].pump];
    if (!cup_in_wants(site, i) || pump->duty == i) {
        cup_in_pass_duty(&pass, i);
        why_duty(&pass);
    } else
        cup_in_because(&pass, CUP_REASON_BUSY,
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
    cup_in_because(&pass, CUP_REASON_NONE, CUP_NONE);
    if (i >= plan->pump_count)
        return pass.event.cause;
    cup_in_pass_pump(&pass, i);
    switch (cup_pump_shows(pass.pump)) {
    case CUP_PUMP_TRIPPED:
    case CUP_PUMP_RESTING:
        cup_in_why_rest(&pass);
        break;
    case CUP_PUMP_BLOCKED:
        cup_in_why_guard(&pass, pass.pump->no);
        break;
    case CUP_PUMP_WAITING:
        count_pumps(&pass);
        if (site->pass->flags & PASS_ON_HOLD)
            cup_in_because(&pass, CUP_REASON_HOLD, CUP_NONE);
        else
            cup_in_why_wait(&pass);
        break;
    default:
        if (cup_in_why_before_duty(&pass) == CUP_REASON_NONE)
            why_duty(&pass);
    }
    return pass.event.cause;
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
    if (!cup_in_levels_usable(site, plan->about))
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
    for (cup_index i = 0;
         (CUP_USES_DOSES || CUP_USES_TRIES || CUP_USES_CHOICES) &&
         i < plan->duty_count;
         i++)
        if (cup_site_gave_up(site, i) ||
            CUP_IF(CHOICES, cup_choice_is(cup_in_choices_duty(site, i),
                                          CUP_CHOICE_KEPT_TOLD)))
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
    CUP_WHERE(SEVERAL, {
        for (cup_index i = 0; i < plan->severals; i++)
            if (site->severals[i].strays)
                return true;
    })
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
    if (duty >= site->plan->duty_count)
        return false;
    return CUP_IF(TRIES, cup_tries_rests(&site->tries[duty])) ||
           (CUP_IF(DOSES, site->plan->duties[duty].dose) &&
            cup_dose_is_out(&site->duties[duty].latch));
}

bool cup_site_asks(const struct cup_site *site, cup_index duty)
{
    return duty < site->plan->duty_count && cup_in_wants(site, duty);
}

#if CUP_USES_TRAVELS
/* Where an output is that takes its time, and which way it goes. */
static uint16_t place_of_travel(const struct cup_site *site, cup_index i,
                                int *way)
{
    CUP_FLASH struct cup_travel *travel = site->plan->pumps[i].travel;
    bool on = cup_pump_is(&site->pumps[i], CUP_PUMP_IS_ON);
    uint16_t goal = on ? CUP_TRAVEL_OPEN : travel->safe_pct100;
    uint16_t place = cup_travel_place(
        travel, &site->travels[site->plan->pumps[i].travel_own],
        site->pass->clock_ms, on);
    if (way)
        *way = (place < goal) - (place > goal);
    return place;
}
#endif

#if CUP_USES_SPEEDS
/* Where a running output is to be by the level that it keeps; by hand, fully.
 */
static uint16_t place_by_speed(const struct cup_site *site, cup_index i)
{
    const struct cup_pump_state *pump = &site->pumps[i];
    if (pump->duty >= site->plan->duty_count || pump->mode == CUP_MODE_HAND)
        return CUP_TRAVEL_OPEN;
    CUP_FLASH struct cup_duty *duty = &site->plan->duties[pump->duty];
    return duty->speed
               ? cup_speed_place(duty->speed, cup_site_shown(site, duty->keep))
               : CUP_TRAVEL_OPEN;
}
#endif

uint16_t cup_site_place(const struct cup_site *site, cup_index i, int *way)
{
    if (way)
        *way = 0;
    if (i >= site->plan->pump_count)
        return 0;
    bool on = cup_pump_is(&site->pumps[i], CUP_PUMP_IS_ON);
    if (CUP_IF(TRAVELS, site->plan->pumps[i].travel))
        return CUP_IF(TRAVELS, place_of_travel(site, i, way));
    if (!on)
        return 0;
    return CUP_IF_ELSE(SPEEDS, place_by_speed(site, i), CUP_TRAVEL_OPEN);
}

uint32_t cup_site_wait(const struct cup_site *site)
{
    const struct cup_quiet_state *quiet = site->quiet;
    if (!CUP_USES_QUIET)
        return site->plan->scan_ms;
    uint32_t unasked =
        cup_left(site->pass->clock_ms, quiet->asking_ms, quiet->unasked_ms);
    uint32_t wait =
        cup_least(cup_least(quiet->pass_ms, quiet->alive_ms), unasked);
    /* who sleeps wakes late, and what runs must not be late */
    if (site->pass->flags & PASS_RUNNING)
        wait = cup_least(wait, site->plan->late_ms / 2);
    return cup_most(wait, CUP_WAIT_LEAST_MS);
}

uint32_t cup_site_ends(const struct cup_site *site)
{
    CUP_WHERE(QUIET, {
        if (site->pass->flags & PASS_RUNNING)
            return cup_most(site->quiet->pass_ms, CUP_WAIT_LEAST_MS);
    })
    return site->plan->scan_ms;
}
