/* The last word: guards, proofs, stops and starts of one pass. One file, though
 * a long one: boards that are not optimized as a whole pay for calls between
 * two. */
#include "inside.h"

/* Guards and stops */

#if CUP_USES_PER_DAYS
/* The day's limits, as one more guard; a new day begins by itself. */
static uint8_t check_day(struct cup_pass *pass)
{
    CUP_FLASH struct cup_pump *plan = pass->pump_plan;
    const struct cup_pump_state *pump = pass->pump;
    struct cup_per_day_state *day = &site_of(pass)->per_days[plan->per_day_own];
    uint32_t run_ms = cup_in_pass_run(pump, pass->now);
    bool on = cup_pump_is(pump, CUP_PUMP_IS_ON);
    uint16_t today = cup_in_clock_date(pass);
    if (cup_per_day_is_over(day, pass->now, today))
        cup_per_day_begin(
            day, pass->now - (today > 0 ? cup_in_clock_midnight(pass) : 0),
            run_ms, on);
    return cup_per_day_cause(plan->per_day, day, run_ms, on,
                             &pass->event.cause);
}
#endif

/* Asks one guard of the pump looked at. */
CUP_APART static uint8_t ask_guard(struct cup_pass *pass,
                                   CUP_FLASH struct cup_guard *guard)
{
    const struct cup_site *site = site_of(pass);
    cup_mark value =
        cup_in_levels_end(site, guard->about, cup_in_levels_end_for(guard));
    bool sure = guard->kind != CUP_GUARD_SOURCE ||
                !cup_guard_remembers(guard, pass->pump) ||
                cup_in_levels_sure(site, guard);
    if (CUP_USES_SLACK) {
        cup_in_weigh_marks(site, guard->about, value, guard->mark,
                           guard->clear);
        if (!sure) /* each sample counts */
            cup_in_weigh_to(site, guard->about, 0);
    }
    uint8_t says =
        cup_guard_step(guard, pass->pump,
                       cup_in_levels_sound(site, guard->about), value, sure);
    return says != CUP_REASON_NONE &&
                   CUP_IF(SPANS, cup_in_blind_may(pass, guard))
               ? CUP_REASON_NONE
               : says;
}

/* What was told says no no more, whether or not another does now. */
static void tell_clear(struct cup_pass *pass)
{
    cup_in_why_guard(pass, pass->pump->told);
    cup_in_tell_pump(pass, CUP_KIND_CLEAR);
    pass->pump->told = CUP_REASON_NONE;
}

/* What keeps it off besides its guards: the limits of a day, a port that fails;
 * NONE when nothing does. */
static uint8_t check_others(struct cup_pass *pass)
{
    uint8_t no = CUP_REASON_NONE;
    CUP_WHERE(PER_DAYS, if (pass->pump_plan->per_day) no = check_day(pass);)
    if (CUP_USES_FAILS && (site_of(pass)->pass->flags & PASS_FAILING))
        no = cup_in_fails_guard(pass, no);
    return no;
}

static void check_guards(struct cup_pass *pass)
{
    uint8_t no = check_others(pass);
    const uint8_t told = cup_guard_kind(pass->pump->told);
    bool still = told >= CUP_GUARD_COUNT;
    for (uint8_t left = pass->pump_plan->guard_count; left > 0; left--) {
        /* from the last on, so that the first no counts */
        CUP_FLASH struct cup_guard *guard = &pass->pump_plan->guards[left - 1];
        uint8_t says = ask_guard(pass, guard);
        if (says == CUP_REASON_NONE)
            continue;
        no = says;
        if (guard->kind == told)
            still = true;
    }
    if (CUP_USES_ROUTES && no != pass->pump->no) /* a valve may open, or not */
        cup_in_quiet_for(pass, 0);
    pass->pump->no = no;
    if (pass->pump->told && (!no || !still))
        tell_clear(pass);
}

/* Proof of flow */

#if CUP_USES_PROOFS
/* What other pumps that move the tank do for a proof by it. */
static unsigned by_others(CUP_FLASH struct cup_proof *proof,
                          const struct cup_tank_state *tank, int own,
                          int others)
{
    const int helpers =
        (proof->kind == CUP_PROOF_FALLS ? tank->movers - tank->givers
                                        : tank->givers) -
        own;
    return (helpers > 0 ? CUP_PROOF_HELPED : 0u) |
           (helpers < others ? CUP_PROOF_HINDERED : 0u);
}

/* How other pumps move what should tell, of enum cup_proof_flag. This pump
 * counts itself while it is on. */
static unsigned moved_by_others(const struct cup_pass *pass, bool on)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_proof *proof = pass->pump_plan->proof;
    CUP_WHERE(FLOWS, {
        if (proof->shared > 0 &&
            site->proofs[proof->shared - 1].sharers > (on ? 1 : 0))
            return CUP_PROOF_HELPED;
        if (proof->about < site->plan->sensor_count)
            return 0;
    })
    const struct cup_tank_state *tank =
        &site->tanks[proof->about - site->plan->sensor_count];
    const int own = on ? proof->own : 0;
    const int others = tank->movers - own;
    return others > 0 ? by_others(proof, tank, own, others) : 0;
}

/* Judges the proof of a running pump; reason NONE when it need not stop. */
static uint8_t check_proof(struct cup_pass *pass, struct cup_pump_state *pump)
{
    CUP_FLASH struct cup_proof *proof = pass->pump_plan->proof;
    struct cup_proof_state *state = cup_in_pass_proof(pass);
    if (!cup_in_levels_usable(site_of(pass), proof->about))
        return cup_in_why_lost(pass, proof->about, CUP_REASON_PROOF_LOST,
                               CUP_REASON_PROOF_LOST);
    const unsigned mixed = moved_by_others(pass, true);
    state->flags |= (uint8_t)mixed;
    CUP_WHERE(FLOWS,
              cup_proof_see(proof, state,
                            cup_in_levels_depth(site_of(pass), proof->about));)
    if (!cup_is_over(pass->now, &state->from_ms, &proof->within_ms))
        return CUP_REASON_NONE;
    enum cup_verdict verdict = cup_proof_judge(
        proof, state, pass->now,
        cup_in_levels_depth(site_of(pass), proof->about), &pass->event.cause);
    state->flags = (uint8_t)mixed;
    if (verdict == CUP_PROVED) {
        cup_pump_clear(pump);
        CUP_WHERE(TRIES, cup_in_trips_acquit(pass);)
    }
    return verdict == CUP_FAILED ? pass->event.cause.reason : CUP_REASON_NONE;
}

/* A run begins or ends: so does a part of its proof. */
static void switch_proof(struct cup_pass *pass, bool on)
{
    CUP_FLASH struct cup_proof *proof = pass->pump_plan->proof;
    struct cup_proof_state *state = cup_in_pass_proof(pass);
    if (!on) {
        cup_proof_stop(proof, state, pass->now);
        return;
    }
    cup_proof_start(state, pass->now,
                    cup_in_levels_depth(site_of(pass), proof->about));
    state->flags |= (uint8_t)moved_by_others(pass, true);
}
#endif

#if CUP_USES_PROOFS
/* What the last run of a pump that is off moved is read late. A sensor that
 * cannot be read now tells nothing of it. */
static void settle_proof(struct cup_pass *pass)
{
    CUP_FLASH struct cup_proof *proof = pass->pump_plan->proof;
    if (!proof)
        return;
    struct cup_proof_state *state = cup_in_pass_proof(pass);
    if (!(state->flags & CUP_PROOF_COMES))
        return;
    const unsigned by = cup_in_levels_usable(site_of(pass), proof->about)
                            ? moved_by_others(pass, false)
                            : CUP_PROOF_HELPED;
    uint32_t left =
        cup_proof_settle(proof, state, pass->now,
                         cup_in_levels_depth(site_of(pass), proof->about), by);
    if (left > 0)
        cup_in_quiet_for(pass, left);
}
#endif

/* A run that nothing wants any more goes on to its shortest; but a person, or
 * a reading that is lost, is not kept waiting. */
static bool must_go_on(const struct cup_pass *pass,
                       const struct cup_pump_state *pump)
{
    const struct cup_site *site = site_of(pass);
    if (CUP_IF(STEERING, pump->mode != CUP_MODE_AUTO) ||
        pump->duty == CUP_NONE ||
        cup_is_over(pass->now, &pump->since_ms, &pass->pump_plan->shortest_ms))
        return false;
    cup_index keep = site->plan->duties[pump->duty].keep;
    return keep == CUP_NONE || cup_in_levels_decides(site, keep);
}

#if CUP_USES_ROUTES
/* A valve of a pump's route is shut, or has a reason to shut. */
static uint8_t check_route(struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_duty *duty = cup_in_routes_of(site, pass->i);
    for (uint8_t v = 0; duty && v < duty->through_count; v++) {
        const struct cup_pump_state *valve = &site->pumps[duty->through[v]];
        if (cup_pump_is(valve, CUP_PUMP_IS_ON) &&
            valve->no == CUP_REASON_NONE &&
            cup_pump_is(valve, CUP_PUMP_IS_WANTED) &&
            !cup_pump_ran_longest(&site->plan->pumps[duty->through[v]], valve,
                                  pass->now))
            continue;
        return cup_in_because(pass, CUP_REASON_ROUTE_SHUT,
                              cup_pump_thing(site->plan, duty->through[v]));
    }
    return CUP_REASON_NONE;
}
#endif

/* Why a running pump must stop; reason NONE when it need not. */
static uint8_t stop_cause(struct cup_pass *pass, struct cup_pump_state *pump)
{
    if (pass->halt.reason != CUP_REASON_NONE) {
        pass->event.cause = pass->halt;
        return pass->halt.reason;
    }
    if (pump->no != CUP_REASON_NONE)
        return cup_in_why_guard(pass, pump->no);
    if (CUP_IF(STEERING, cup_pump_is(pump, CUP_PUMP_SAID_OFF)))
        return cup_in_because(pass, CUP_REASON_OFF, CUP_NONE);
    if (cup_pump_ran_longest(pass->pump_plan, pump, pass->now))
        return cup_in_because_of(
            pass, CUP_REASON_LONGEST, CUP_NONE,
            cup_in_number_of_ms(cup_elapsed(pass->now, pump->since_ms)),
            (int32_t)pass->pump_plan->longest_ms);
    if (!cup_pump_is(pump, CUP_PUMP_IS_WANTED) && !must_go_on(pass, pump))
        return cup_in_why_wish(pass);
    uint8_t reason = CUP_REASON_NONE;
    CUP_WHERE(ROUTES, reason = check_route(pass);)
    CUP_WHERE(PROOFS, {
        if (reason == CUP_REASON_NONE && pass->pump_plan->proof)
            reason = check_proof(pass, pump);
    })
    CUP_WHERE(SPANS, {
        if (reason == CUP_REASON_NONE)
            reason = cup_in_spans_drawn(pass);
    })
    return reason;
}

#if CUP_USES_TRAVELS
/* Its travel turns. */
static void switch_travel(const struct cup_pass *pass, bool on)
{
    if (!pass->pump_plan->travel)
        return;
    cup_travel_reverse(pass->pump_plan->travel,
                       &site_of(pass)->travels[pass->pump_plan->travel_own],
                       pass->now, on);
    cup_pump_set(pass->pump, CUP_PUMP_IS_MOVING, true);
}
#endif

#if CUP_USES_PER_DAYS
/* A run of a pump with limits of a day begins or ends. */
static void switch_day(const struct cup_pass *pass, bool on)
{
    struct cup_per_day_state *day =
        &site_of(pass)->per_days[pass->pump_plan->per_day_own];
    if (on)
        cup_per_day_start(day);
    else
        cup_per_day_stop(day, cup_in_pass_run(pass->pump, pass->now));
}
#endif

/* The output goes on or off, with what hangs on it; the next pass is looked at
 * whole, since a guard may see a pump that is off in another light. */
CUP_APART static void switch_pump(struct cup_pass *pass, bool on)
{
    CUP_WHERE(PER_DAYS, if (pass->pump_plan->per_day) switch_day(pass, on);)
    if (on)
        cup_pump_start(pass->pump, pass->now);
    else
        cup_pump_stop(pass->pump, pass->now);
    cup_in_quiet_for(pass, 0);
    CUP_WHERE(TRAVELS, switch_travel(pass, on);)
    if (!CUP_USES_FAILS || !cup_pump_is(pass->pump, CUP_PUMP_IS_FAILING))
        cup_in_movers_count(site_of(pass), pass->pump_plan, on);
    CUP_WHERE(PROOFS, if (pass->pump_plan->proof) switch_proof(pass, on);)
}

/* A run that failed: too long, or nothing moved. */
static bool is_failure(uint8_t reason)
{
    return (reason >= CUP_REASON_LONGEST &&
            reason <= CUP_REASON_PROOF_UNSURE) ||
           CUP_IF(SPANS, reason == CUP_REASON_NOT_DRAWN);
}

/* A duty that is done has its water. */
static bool is_done(uint8_t reason)
{
    return reason == CUP_REASON_ABOVE_STOP || reason == CUP_REASON_BELOW_STOP ||
           reason == CUP_REASON_FAR_FULL || reason == CUP_REASON_REACHED;
}

/* That says of its pump that it moves water, unless a proof knows better. */
static void note_done(const struct cup_pass *pass)
{
    CUP_WHERE(TRIES, cup_in_trips_done(pass);)
    if (!CUP_IF(PROOFS, pass->pump_plan->proof))
        cup_pump_clear(pass->pump);
}

#if CUP_USES_TRIES
/* What did not answer is a bed, unless another did not either. */
static bool is_for_a_duty(const struct cup_pass *pass, uint8_t reason)
{
    return reason == CUP_REASON_LONGEST &&
           !CUP_IF(STEERING, pass->pump->mode != CUP_MODE_AUTO) &&
           pass->pump->duty != CUP_NONE;
}
#endif

static void trip(struct cup_pass *pass, struct cup_pump_state *pump,
                 uint8_t reason)
{
    (void)reason;
    CUP_WHERE(TRIES, {
        if (is_for_a_duty(pass, reason) && !cup_in_trips_trip(pass))
            return;
    })
    enum cup_kind kind = cup_pump_trip(pass->pump_plan, pump);
    cup_in_tell_pump(pass, CUP_KIND_TRIP);
    if (kind != CUP_KIND_LOCK)
        return;
    cup_in_because_values(pass, CUP_REASON_LOCKED, CUP_NONE, pump->trips, 0);
    cup_in_tell_pump(pass, CUP_KIND_LOCK);
}

/* It is on after this pass. */
CUP_APART static void count_running(struct cup_pass *pass)
{
    pass->running++;
    if (!pass->pump_plan->uncounted &&
        (!CUP_USES_FAILS || !cup_pump_is(pass->pump, CUP_PUMP_IS_FAILING)))
        pass->pumps_running++; /* what fails is counted already */
}

/* A valve that a running pump needs shuts only once that pump is off. */
static void check_stop(struct cup_pass *pass)
{
    struct cup_pump_state *pump = pass->pump;
    uint8_t reason = stop_cause(pass, pump);
    if (reason == CUP_REASON_NONE ||
        CUP_IF(ROUTES, cup_in_routes_in_use(pass, pass->i))) {
        count_running(pass);
        if (reason != CUP_REASON_NONE)
            cup_in_quiet_for(pass, 0);
        return;
    }
    switch_pump(pass, false);
    cup_in_tell_pump(pass, CUP_KIND_STOP);
    if (reason == pump->no)
        pump->told = pump->no;
    if (is_failure(reason))
        trip(pass, pump, reason);
    else if (is_done(reason))
        note_done(pass);
}

/* Starts */

#if CUP_USES_STEERING
/* Whether this pass stopped it: then its stop said why already. */
static bool just_stopped(const struct cup_pass *pass)
{
    return pass->pump->since_ms == pass->now &&
           !cup_pump_is(pass->pump, CUP_PUMP_IS_BOOTING);
}

/* A hand run that is refused, by a guard or a trip, does not lie in wait for
 * that to clear. */
static void refuse_hand(struct cup_pass *pass)
{
    struct cup_pump_state *pump = pass->pump;
    if (pump->no != CUP_REASON_NONE)
        cup_in_why_guard(pass, pump->no);
    else
        cup_in_why_rest(pass);
    if (!just_stopped(pass) || (pump->no && pump->told == CUP_REASON_NONE))
        cup_in_tell_pump(pass, CUP_KIND_BLOCK);
    if (pump->no != CUP_REASON_NONE)
        pump->told = pump->no;
    cup_in_quiet_for(pass, 0);
    cup_pump_end_hand(pump, pass->now);
    pump->hand_for_ms = 0;
    cup_pump_set(pump, CUP_PUMP_IS_STEERED, false);
    if (cup_pump_is(pump, CUP_PUMP_IS_TRIPPED)) /* the next pass does */
        cup_pump_set(pump, CUP_PUMP_IS_AFRESH, true);
    cup_in_why_mode(pass);
    cup_in_tell_pump(pass, CUP_KIND_MODE);
}
#endif

#if CUP_USES_ONCE
/* Whether a sensor that comes and goes is behind it, of which no more is told
 * for now. */
static bool is_hushed(const struct cup_pass *pass, uint8_t no)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_guard *guard = cup_guard_of(pass->pump_plan, no);
    return guard && site->plan->repeat_ms > 0 &&
           cup_guard_says(no) >= CUP_GUARD_LOST &&
           cup_once_is_hushed(
               &site->onces[cup_in_levels_sensor(site, guard->about)],
               pass->now, site->plan->repeat_ms);
}
#endif

/* A guard refuses a wish: told once. A trip was told when it came. */
static void refuse(struct cup_pass *pass, struct cup_pump_state *pump)
{
    CUP_WHERE(STEERING, if (pump->mode == CUP_MODE_HAND) refuse_hand(pass);)
    if (pump->no == CUP_REASON_NONE || pump->told != CUP_REASON_NONE ||
        CUP_IF(ONCE, is_hushed(pass, pump->no)))
        return;
    cup_in_why_guard(pass, pump->no);
    cup_in_tell_pump(pass, CUP_KIND_BLOCK);
    pump->told = pump->no;
    cup_in_quiet_for(pass, 0); /* its valves, if any, may shut */
}

/* What a duty gives is counted from the start itself, whatever comes next. */
static void begin_run(const struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_duty *duty = pass->duty;
    if (CUP_IF(STEERING, pass->pump->mode != CUP_MODE_AUTO) ||
        CUP_IF(ROUTES, pass->pump->duty == CUP_NONE))
        return;
    CUP_WHERE(DOSES, {
        if (duty->dose)
            cup_dose_begin(&site->doses[cup_in_pass_own(site->plan->doses,
                                                        duty->dose_own)],
                           pass->latch, pass->now,
                           cup_in_levels_value(site, duty->keep));
    })
    CUP_WHERE(TURNS, {
        if (duty->turn)
            cup_turn_begin(&site->turns[cup_in_pass_own(site->plan->turns,
                                                        duty->turn_own)],
                           pass->now);
    })
    (void)site, (void)duty;
}

static void check_start(struct cup_pass *pass)
{
    struct cup_pump_state *pump = pass->pump;
    if (!cup_pump_is(pump, CUP_PUMP_IS_WANTED) ||
        cup_pump_is(pump, CUP_PUMP_IS_ON))
        return;
    if (pump->no != CUP_REASON_NONE || cup_pump_is(pump, CUP_PUMP_IS_TRIPPED)) {
        refuse(pass, pump);
        return;
    }
    if (pass->halt.reason != CUP_REASON_NONE || !cup_pump_ready(pump) ||
        cup_in_why_wait(pass) != CUP_REASON_NONE)
        return;
    cup_in_why_wish(pass);
    cup_in_tell_pump(pass, CUP_KIND_START);
    switch_pump(pass, true);
    begin_run(pass);
    count_running(pass);
}

/* The pass */

#if CUP_USES_STEERING
/* What was said is done, and a hand run that ended is as if it had not been. */
static void end_steering(struct cup_pass *pass)
{
    struct cup_pump_state *pump = pass->pump;
    bool by_hand = pump->mode == CUP_MODE_HAND;
    cup_pump_set(pump, CUP_PUMP_SAID_OFF, false);
    if (!by_hand)
        pump->hand_for_ms = 0;
    if (!cup_pump_is(pump, CUP_PUMP_PAST_STOP) ||
        (by_hand && cup_pump_is(pump, CUP_PUMP_IS_ON)))
        return;
    cup_pump_set(pump, CUP_PUMP_PAST_STOP, false);
    cup_in_because(pass, CUP_REASON_HAND_PAST, CUP_NONE);
    cup_in_tell_pump(pass, CUP_KIND_OVER);
}
#endif

/* What a pump that is on, or was steered, has before any pump starts. */
static void before_starts(struct cup_pass *pass)
{
    cup_pump_set(pass->pump, CUP_PUMP_IS_STEERED | CUP_PUMP_IS_AFRESH, false);
    if (cup_pump_is(pass->pump, CUP_PUMP_IS_ON))
        check_stop(pass);
    CUP_WHERE(STEERING, end_steering(pass);)
}

/* What a pump that is wanted, runs or rests has after all have stopped. */
static void with_starts(struct cup_pass *pass)
{
    check_start(pass);
    CUP_WHERE(QUIET, cup_in_quiet_pump(pass);)
}

CUP_APART void cup_in_act_step(struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    const cup_index pumps = site->plan->pump_count;
    if (CUP_USES_FAILS && (site->pass->flags & PASS_DROVE))
        cup_in_fails_tell(pass);
    for (cup_index i = 0; i < pumps; i++) {
        cup_in_pass_pump(pass, i);
        check_guards(pass);
        CUP_WHERE(PROOFS, settle_proof(pass);)
    }
    for (cup_index i = 0; i < pumps; i++) {
        cup_in_pass_pump(pass, i);
        if (cup_pump_is(pass->pump, CUP_PUMP_IS_STEERED | CUP_PUMP_IS_ON |
                                        CUP_PUMP_IS_AFRESH))
            before_starts(pass);
    }
    CUP_WHERE(ROUTES, {
        if (site->plan->routes > 0)
            cup_in_routes_open(pass); /* guards may have cleared */
    })
    for (cup_index i = 0; i < pumps; i++) {
        cup_in_pass_pump(pass, i);
        if (cup_pump_is(pass->pump, CUP_PUMP_IS_TIMED | CUP_PUMP_IS_ON |
                                        CUP_PUMP_IS_WANTED))
            with_starts(pass);
    }
}

/* The second time round the pumps are off, and nothing keeps a valve. */
static void stop_for_good(struct cup_pass *pass, int valves)
{
    if (!valves) {
        check_stop(pass);
        return;
    }
    switch_pump(pass, false);
    pass->event.cause = pass->halt;
    cup_in_tell_pump(pass, CUP_KIND_STOP);
}

void cup_site_shut_down(const struct cup_site *site,
                        const struct cup_sink *sink)
{
    struct cup_pass_state *state = site->pass;
    struct cup_pass pass = {.sink = sink, .now = state->clock_ms};
    hold_site(&pass, site);
    pass.event.t_ms = state->seen_ms;
    cup_in_because(&pass, CUP_REASON_SHUT_DOWN, CUP_NONE);
    pass.halt = pass.event.cause;
    for (int valves = 0; valves < 2; valves++) /* they shut after the pumps */
        for (cup_index i = 0; i < site->plan->pump_count; i++)
            if (cup_pump_is(&site->pumps[i], CUP_PUMP_IS_ON)) {
                cup_in_pass_pump(&pass, i);
                stop_for_good(&pass, valves);
            }
    state->flags = (uint16_t)(state->flags | PASS_SHUT | PASS_TOUCHED);
    state->flags = (uint16_t)(state->flags & ~PASS_RUNNING);
}
