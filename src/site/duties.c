/* What each duty asks for, and which of them gets a shared pump. */
#include "inside.h"

#if CUP_USES_DOSES || CUP_USES_TURNS
/* A pump runs for the duty looked at. */
CUP_APART static bool runs_for_it(const struct cup_pass *pass)
{
    return cup_pump_is(pass->pump, CUP_PUMP_IS_ON) &&
           pass->pump->duty == pass->d;
}

/* The pump of the duty looked at runs for it, and not by hand. */
static bool runs_by_itself(const struct cup_pass *pass)
{
    return runs_for_it(pass) &&
           (!CUP_USES_STEERING || pass->pump->mode == CUP_MODE_AUTO);
}
#endif

#if CUP_USES_TURNS
/* When the run under way became the duty's: with its start, or as a hand run
 * ended in it. */
static uint32_t run_since(const struct cup_pass *pass)
{
    return CUP_IF_ELSE(STEERING, pass->pump->hand_ms, pass->pump->since_ms);
}
#endif

static bool is_new(const struct cup_site *site, cup_index thing)
{
    return cup_in_levels_behind(site, thing)->reading.flags & CUP_READING_NEW;
}

/* Steps a latch by what it looks at, and the end of that which does least harm.
 */
static void step_latch(struct cup_pass *pass,
                       CUP_NUMBERS struct cup_latch *latch,
                       struct cup_latch_state *state, cup_index about,
                       enum cup_end end)
{
    const struct cup_site *site = site_of(pass);
    cup_mark value = cup_in_levels_end(site, about, end);
    cup_mark shown = cup_in_levels_shown_end(site, about, end);
    uint32_t left = cup_duty_step(latch, state, pass->now,
                                  cup_in_levels_decides(site, about), value,
                                  shown, is_new(site, about));
    if (CUP_USES_SLACK)
        cup_in_weigh_latch(site, about, value, shown, latch, state);
    cup_in_quiet_for(pass, left);
}

#if CUP_USES_ALSOS
/* The second condition: its own latch, and whether both together ask. */
static void step_also(struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_also *also = pass->duty->also;
    struct cup_latch_state *state = &site->alsos[pass->duty->also_own];
    struct cup_latch room;
    bool first = pass->latch->on;
    step_latch(pass, cup_latch_of(&also->latch, &room), state, also->about,
               cup_in_levels_end_of(&also->latch));
    bool usable = cup_in_levels_decides(site, also->about) &&
                  cup_in_levels_decides(site, pass->duty->keep);
    bool goes_on = also->both_stop && state->own[0] && (first || state->on);
    state->own[0] = usable && ((first && state->on) || goes_on);
}
#endif

#if CUP_USES_DOSES
/* That it gave up, or begins anew, is told, and the journal knows. */
static void tell_doses(struct cup_pass *pass, bool out,
                       const struct cup_dose_state *doses)
{
    bool day = pass->latch->own[CUP_DOSE_PHASE] == CUP_DOSE_DAY;
    cup_in_because_values(pass,
                          day   ? CUP_REASON_DOSES_DAY
                          : out ? CUP_REASON_DOSES_OUT
                                : CUP_REASON_DOSES_ANEW,
                          pass->duty->keep, day ? doses->today : doses->given,
                          0);
    cup_in_tell(pass, cup_duty_thing(site_of(pass)->plan, pass->d),
                out ? CUP_KIND_ALERT : CUP_KIND_OVER);
    if (CUP_USES_JOURNAL)
        cup_set_bits(&site_of(pass)->pass->flags, PASS_AT_ONCE, true);
}

/* A run that goes on for it after a hand run has ended begins a dose. */
static void take_over_dose(const struct cup_pass *pass,
                           struct cup_dose_state *doses)
{
    uint8_t phase = pass->latch->own[CUP_DOSE_PHASE];
    if (pass->latch->on &&
        (phase == CUP_DOSE_READY || phase == CUP_DOSE_AFRESH))
        cup_dose_begin(doses, pass->latch, pass->now,
                       cup_in_levels_value(site_of(pass), pass->duty->keep));
}

/* Whether there is anything to step: that is quicker, but a bare board has all
 * the time. */
static bool has_session(const struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    const struct cup_dose_state *doses =
        &site->doses[cup_in_pass_own(site->plan->doses, pass->duty->dose_own)];
    return pass->latch->on ||
           pass->latch->own[CUP_DOSE_PHASE] != CUP_DOSE_READY ||
           doses->given > 0 || doses->today > 0;
}

/* It would give another: what the last brought, and whether one is left. */
static void look_again(const struct cup_pass *pass,
                       CUP_NUMBERS struct cup_dose *dose,
                       const struct cup_dose_state *doses,
                       CUP_NUMBERS struct cup_latch *marks, bool soaked)
{
    if (soaked)
        cup_dose_judge(dose, doses, marks, pass->latch,
                       cup_in_levels_value(site_of(pass), pass->duty->keep));
    cup_dose_limit(dose, doses, pass->latch);
}

/* Doses of the duty looked at. */
static void step_dose(struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    cup_index keep = pass->duty->keep;
    struct cup_latch_state *state = pass->latch;
    struct cup_dose room;
    struct cup_latch more_room;
    CUP_NUMBERS struct cup_dose *dose = cup_in_pass_dose(pass, &room);
    struct cup_dose_state *doses =
        &site->doses[cup_in_pass_own(site->plan->doses, pass->duty->dose_own)];
    CUP_NUMBERS struct cup_latch *marks = cup_in_pass_latch(pass, &more_room);
    const uint8_t was = state->own[CUP_DOSE_PHASE];
    const bool running = runs_by_itself(pass);
    if (is_new(site, keep))
        cup_dose_see(doses, state,
                     cup_latch_past_stop(
                         marks, cup_in_levels_end(site, keep, CUP_END_HIGH)));
    if (CUP_USES_STEERING && running)
        take_over_dose(pass, doses);
    uint32_t left = cup_dose_step(dose, doses, state, pass->now, running);
    cup_in_quiet_for(pass, left);
    if (state->own[CUP_DOSE_PHASE] == CUP_DOSE_READY && state->on)
        look_again(pass, dose, doses, marks, was == CUP_DOSE_SOAKS);
    if (CUP_USES_SLACK && doses->past % 2 == 1) /* the next sample counts */
        cup_in_weigh_to(site, keep, 0);
    bool out = cup_dose_is_out(state);
    if (out != (was >= CUP_DOSE_OUT))
        tell_doses(pass, out, doses);
}
#endif

#if CUP_USES_CLOCK
/* Without a clock its hours count for nothing. */
static bool in_hours(const struct cup_pass *pass)
{
    CUP_FLASH struct cup_duty *duty = pass->duty;
    return duty->from == duty->to || pass->minute == CUP_NO_MINUTE ||
           cup_within(duty->from, duty->to, pass->minute);
}
#endif

#if CUP_USES_TURNS
#if CUP_USES_DAYS
/* A dawn that came with the boot is none when the last turn is young: the
 * journal knows. */
static bool is_dawn(const struct cup_site *site,
                    CUP_NUMBERS struct cup_turn *turn,
                    const struct cup_turn_state *state, uint32_t now)
{
    uint8_t flags = cup_day_flags(
        &site->days[cup_in_pass_own(site->plan->day_count, turn->day)]);
    if (!(flags & CUP_DAY_IS_DAWN))
        return false;
    return (flags & CUP_DAY_WAS_NIGHT) || !(state->flags & CUP_TURN_EVER) ||
           turn->every_ms == 0 || cup_turn_is_over(state, now, &turn->every_ms);
}
#endif

/* What ends a turn before its time. */
static bool is_reached(const struct cup_site *site,
                       CUP_NUMBERS struct cup_turn *turn)
{
    if (turn->until == CUP_NONE)
        return false;
    cup_mark value = cup_in_levels_end(site, turn->until, CUP_END_HIGH);
    bool reached =
        cup_in_levels_decides(site, turn->until) &&
        cup_has_crossed(&turn->until_above, &turn->until_side, value);
    if (CUP_USES_SLACK) {
        cup_mark passed = CUP_AS_MARK(CUP_COUNTS(turn->until_above) + !reached);
        cup_in_weigh_marks(site, turn->until, value, passed, passed);
    }
    return reached;
}

#if CUP_USES_OWED
/* A person keeps the duty looked at, its pump or the site from running. */
static bool is_kept_off(const struct cup_pass *pass)
{
    (void)pass;
    return CUP_IF(STEERING, pass->pump->mode == CUP_MODE_OFF ||
                                (site_of(pass)->pass->flags & PASS_ON_HOLD)) ||
           CUP_IF(CHOICES, cup_in_choices_off(site_of(pass), pass->d));
}

/* While none is given: the first that is missed, then so many as make a repeat.
 */
static bool is_missed(const struct cup_pass *pass,
                      CUP_NUMBERS struct cup_turn *turn,
                      const struct cup_turn_state *state)
{
    (void)pass, (void)turn;
    return state->missed > 0 &&
           CUP_IF_ELSE(ONCE,
                       !(state->flags & CUP_TURN_TOLD) || turn->every_ms == 0 ||
                           state->missed * turn->every_ms >=
                               site_of(pass)->plan->repeat_ms,
                       true);
}

/* Some could not be given; or what ends them seems stuck. */
static void tell_turn(struct cup_pass *pass, CUP_NUMBERS struct cup_turn *turn,
                      struct cup_turn_state *state, uint8_t was)
{
    const cup_index of = cup_duty_thing(site_of(pass)->plan, pass->d);
    if (is_missed(pass, turn, state)) {
        cup_in_because_of(pass, CUP_REASON_MISSED, of, state->missed, 0);
        cup_in_tell(pass, of, CUP_KIND_ALERT);
        state->missed = 0;
        cup_set_bits(&state->flags, CUP_TURN_TOLD, true);
    }
    if (state->reached != 2 && !(was >= 2 && state->reached == 0))
        return;
    if (state->reached == was)
        return;
    cup_in_because_of(pass, CUP_REASON_UNTIL_STANDS, turn->until, was, 0);
    cup_in_tell(pass, of, state->reached ? CUP_KIND_ALERT : CUP_KIND_OVER);
}
#endif

/* What a turn looks at in this pass. */
static struct cup_turn_seen look_at_turn(const struct cup_pass *pass,
                                         CUP_NUMBERS struct cup_turn *turn,
                                         const struct cup_turn_state *state)
{
    const struct cup_site *site = site_of(pass);
    struct cup_turn_seen seen = {.is_day = true};
    CUP_WHERE(CLOCK, {
        if (pass->minute != CUP_NO_MINUTE)
            seen.clock_min = site->wall->s / 60;
    })
    CUP_WHERE(OWED, seen.is_off = is_kept_off(pass);)
    seen.running = runs_by_itself(pass);
    seen.run_since_ms = run_since(pass);
    seen.run_until_ms = seen.running ? pass->now : pass->pump->since_ms;
    CUP_WHERE(STEERING, {
        if (!seen.running && runs_for_it(pass)) /* a hand took it over */
            seen.run_until_ms = pass->pump->mode == CUP_MODE_HAND
                                    ? pass->pump->hand_ms
                                    : pass->now;
    })
    seen.is_day = !CUP_IF(CLOCK, !in_hours(pass));
    CUP_WHERE(DAYS, {
        if (turn->day != CUP_NONE && seen.is_day) {
            seen.is_day = cup_site_is_day(site, turn->day);
            seen.is_dawn = is_dawn(site, turn, state, pass->now);
        }
    })
    (void)state;
    seen.is_reached = is_reached(site, turn);
    return seen;
}

#if CUP_USES_CHOICES
/* The one that is due is left out, if somebody said so. */
static bool is_skipped(struct cup_pass *pass, struct cup_turn_state *state)
{
    if (!cup_choice_is(cup_in_choices_duty(site_of(pass), pass->d),
                       CUP_CHOICE_SKIP) ||
        !cup_turn_skip(state, pass->now))
        return false;
    cup_in_choices_skipped(pass);
    return true;
}
#endif

CUP_APART static void step_turn(struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    struct cup_turn room;
    CUP_NUMBERS struct cup_turn *turn = cup_in_pass_turn(pass, &room);
    struct cup_turn_state *state =
        &site->turns[cup_in_pass_own(site->plan->turns, pass->duty->turn_own)];
    const struct cup_turn_seen seen = look_at_turn(pass, turn, state);
    CUP_WHERE(OWED, const uint8_t was = state->reached;)
    uint32_t left = cup_turn_step(turn, state, pass->now, &seen);
    CUP_WHERE(CHOICES, {
        if (is_skipped(pass, state))
            left = 0;
    })
    if (CUP_IF(CLOCK, turn->at_count > 0))
        left = cup_least(left, cup_in_clock_next_minute(pass));
    cup_in_quiet_for(pass, left);
    CUP_WHERE(OWED, {
        if (state->missed > 0 || state->reached != was)
            tell_turn(pass, turn, state, was);
    })
}
#endif

static void step_keep(struct cup_pass *pass)
{
    struct cup_latch room;
    CUP_NUMBERS struct cup_latch *latch =
        CUP_IF(SETTINGS, site_of(pass)->pass->altered > 0)
            ? cup_in_settings_latch(site_of(pass), pass->d, &room)
            : cup_latch_of(&pass->duty->latch, &room);
    step_latch(pass, latch, pass->latch, pass->duty->keep, CUP_END_HIGH);
    CUP_WHERE(ALSOS, if (pass->duty->also) step_also(pass);)
    CUP_WHERE(DOSES, {
        if (pass->duty->dose && (!CUP_USES_QUIET || has_session(pass)))
            step_dose(pass);
    })
}

#if CUP_USES_CLOCK
/* Outside its hours a duty that keeps a level lets go, as if it had been lost;
 * a turn goes on to its end. */
static void step_hours(struct cup_pass *pass)
{
    cup_in_quiet_for(pass, cup_in_clock_next_minute(pass));
    if (CUP_IF(TURNS, pass->duty->turn) || in_hours(pass))
        return;
    cup_latch_release(pass->latch);
    CUP_WHERE(ALSOS, {
        if (pass->duty->also)
            site_of(pass)->alsos[pass->duty->also_own].own[0] = 0;
    })
}
#endif

#if CUP_USES_STEERING
/* The water of a hand run goes through other valves than this duty's. */
static bool is_by_another_route(const struct cup_pass *pass)
{
    (void)pass;
    return CUP_IF(ROUTES,
                  pass->duty->through_count > 0 && pass->pump->duty != pass->d);
}

/* A hand run past the stop mark of a duty of its pump is told once. */
static void check_hand(struct cup_pass *pass)
{
    struct cup_latch room;
    cup_index keep = pass->duty->keep;
    if (CUP_IF(TURNS, pass->duty->turn) || is_by_another_route(pass) ||
        !cup_pump_is(pass->pump, CUP_PUMP_IS_ON) ||
        cup_pump_is(pass->pump, CUP_PUMP_PAST_STOP) ||
        !cup_in_levels_decides(site_of(pass), keep))
        return;
    CUP_NUMBERS struct cup_latch *latch = cup_in_pass_latch(pass, &room);
    cup_mark level = cup_in_levels_end(site_of(pass), keep, CUP_END_HIGH);
    if (CUP_USES_SLACK)
        cup_in_weigh_marks(site_of(pass), keep, level, latch->stop,
                           latch->stop);
    if (!cup_latch_past_stop(latch, level))
        return;
    cup_pump_set(pass->pump, CUP_PUMP_PAST_STOP, true);
    cup_in_because_values(
        pass, CUP_REASON_HAND_PAST, keep,
        cup_in_levels_end_value(site_of(pass), keep, CUP_END_HIGH),
        CUP_TOLD(latch, stop));
    cup_in_tell_pump(pass, CUP_KIND_ALERT);
}
#endif

static void step_duty(struct cup_pass *pass)
{
    CUP_WHERE(STEERING, {
        const struct cup_pump_state *pump =
            &site_of(pass)->pumps[pass->duty->pump];
        if (cup_pump_is(pump, CUP_PUMP_IS_AFRESH) &&
            pump->mode == CUP_MODE_AUTO)
            cup_latch_release(pass->latch);
        if (pump->mode == CUP_MODE_HAND)
            check_hand(pass);
    })
    if (CUP_IF(TURNS, pass->duty->turn))
        CUP_WHERE(TURNS, step_turn(pass));
    else
        step_keep(pass);
    CUP_WHERE(CLOCK, if (pass->duty->from != pass->duty->to) step_hours(pass);)
    CUP_WHERE(TRIES, {
        if (site_of(pass)->tries[pass->d].flags)
            cup_in_trips_step(pass);
    })
}

/* A pump is driven by the first duty that asks, in the order of the plan. The
 * one that drives it now keeps it, and each run is one duty's: between two the
 * pump stops. */
static void offer(const struct cup_pass *pass)
{
    struct cup_pump_state *pump = pass->pump;
    if (CUP_IF(STEERING, pump->mode != CUP_MODE_AUTO) ||
        (cup_pump_is(pump, CUP_PUMP_IS_ON) && pump->duty != pass->d) ||
        CUP_IF(ROUTES, cup_in_routes_kept_shut(pass) != CUP_NONE))
        return;
    if (!cup_pump_is(pump, CUP_PUMP_IS_WANTED))
        pump->duty = pass->d;
    cup_pump_set(pump, CUP_PUMP_IS_WANTED, true);
}

/* What a duty is offered changes nothing for those after it: a pump that is on
 * keeps its duty. */
void cup_in_duties_step(struct cup_pass *pass)
{
    for (cup_index i = 0; i < site_of(pass)->plan->duty_count; i++) {
        cup_in_pass_duty(pass, i);
        if (!pass->still)
            step_duty(pass);
        CUP_WHERE(CHOICES, {
            if (site_of(pass)->pass->standing > 0 &&
                cup_in_wants_despite(site_of(pass), i))
                cup_in_choices_note(pass);
        })
        const bool wants = cup_in_wants(site_of(pass), i);
        CUP_WHERE(CHOICES, {
            if ((wants || cup_in_waits_is(site_of(pass), i)) &&
                site_of(pass)->plan->patience_ms > 0)
                cup_in_waits_look(pass, wants);
        })
        if (wants)
            offer(pass);
    }
    CUP_WHERE(ROUTES, {
        if (site_of(pass)->plan->routes > 0)
            cup_in_routes_open(pass);
    })
}
