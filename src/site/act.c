/* The last word: guards, proofs, stops and starts of one pass. */
#include "inside.h"

/* Guards and stops */

/* A day is over after 24 h; with a clock, at the first midnight from then on.
 * `late` is how long ago that was. */
static bool is_over(const struct cup_pass *pass,
                    const struct cup_per_day_state *day, uint32_t *late)
{
    uint32_t gone = cup_elapsed(pass->now, day->began_ms);
    if (gone < CUP_DAY_MS || pass->minute == CUP_NO_MINUTE)
        return gone >= CUP_DAY_MS;
    *late = cup_pass_midnight(pass);
    return gone - CUP_DAY_MS >= *late;
}

/* The day's limits, as one more guard; a new day begins by itself. */
CUP_RARE static uint8_t check_day(struct cup_pass *pass,
                                  CUP_FLASH struct cup_pump *plan,
                                  const struct cup_pump_state *pump)
{
    struct cup_per_day_state *day = &site_of(pass)->per_days[plan->per_day_own];
    uint32_t run_ms = cup_run_of(pump, pass->now);
    bool on = cup_pump_is(pump, CUP_PUMP_IS_ON);
    uint32_t late = 0;
    if (is_over(pass, day, &late))
        cup_per_day_begin(day, pass->now - late, run_ms, on);
    return cup_per_day_cause(plan->per_day, day, run_ms, on,
                             &pass->event.cause);
}

/* A pump that does not obey stays off, and so does what shares its tanks. */
CUP_RARE static uint8_t check_failing(const struct cup_pass *pass,
                                      CUP_FLASH struct cup_pump *plan,
                                      const struct cup_pump_state *pump,
                                      uint8_t no)
{
    cup_index first = site_of(pass)->plan->sensor_count;
    if (cup_pump_is(pump, CUP_PUMP_IS_FAILING))
        return CUP_REASON_CANNOT_DRIVE;
    for (uint8_t i = 0; i < plan->guard_count; i++)
        if (plan->guards[i].kind != CUP_GUARD_SUPPLY &&
            site_of(pass)->tanks[plan->guards[i].about - first].failing > 0)
            return CUP_REASON_SHARES_FAILED;
    return no;
}

static void check_guards(struct cup_pass *pass, CUP_FLASH struct cup_pump *plan,
                         struct cup_pump_state *pump)
{
    uint8_t no = CUP_REASON_NONE;
    if (CUP_IF(PER_DAYS, plan->per_day))
        no = check_day(pass, plan, pump);
    if (site_of(pass)->pass->flags & PASS_FAILING)
        no = check_failing(pass, plan, pump, no);
    for (unsigned left = plan->guard_count; left > 0; left--) {
        /* from the last on, so that the first no counts */
        CUP_FLASH struct cup_guard *guard = &plan->guards[left - 1];
        struct cup_reading reading =
            cup_reading_of(site_of(pass), guard->about);
        uint8_t says = cup_guard_step(guard, pump, reading);
        if (CUP_USES_SLACK)
            cup_narrow_marks(site_of(pass), guard->about, reading.value,
                             guard->mark, guard->clear);
        no = says ? says : no;
    }
    pump->no = no;
}

/* Proof of flow */

/* Counts a pump in or out at the tanks that it moves. */
static void count_mover(const struct cup_site *site,
                        CUP_FLASH struct cup_pump *plan, int by)
{
    for (uint8_t i = 0; i < plan->guard_count; i++)
        if (plan->guards[i].kind != CUP_GUARD_SUPPLY) {
            struct cup_tank_state *tank =
                &site->tanks[plan->guards[i].about - site->plan->sensor_count];
            tank->movers = (uint16_t)(tank->movers + by);
        }
}

/* Whether another pump moves the tank that should tell. */
static bool is_mixed(const struct cup_site *site,
                     CUP_FLASH struct cup_pump *plan)
{
    cup_index about = plan->proof->about;
    unsigned own = 0;
    if (CUP_IF(FLOWS, plan->proof->kind == CUP_PROOF_ABOVE))
        return false;
    for (uint8_t i = 0; i < plan->guard_count; i++)
        own += plan->guards[i].about == about;
    return site->tanks[about - site->plan->sensor_count].movers > own;
}

/* Judges the proof of a running pump; reason NONE when it need not stop. */
static uint8_t check_proof(struct cup_pass *pass, cup_index i)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_pump *plan = &site->plan->pumps[i];
    CUP_FLASH struct cup_proof *proof = plan->proof;
    struct cup_proof_state *state = &site->proofs[plan->proof_own];
    if (!cup_usable(cup_reading_of(site, proof->about)))
        return cup_pass_lost(pass, proof->about, CUP_REASON_PROOF_LOST,
                             CUP_REASON_PROOF_LOST);
    if (is_mixed(site, plan))
        state->mixed = 1;
    if (CUP_USES_FLOWS)
        cup_proof_see(proof, state, cup_depth_of(site, proof->about));
    if (cup_proof_left(proof, state, pass->now) > 0)
        return CUP_REASON_NONE;
    enum cup_verdict verdict =
        cup_proof_judge(proof, state, pass->now,
                        cup_depth_of(site, proof->about), &pass->event.cause);
    state->mixed = is_mixed(site, plan);
    if (verdict == CUP_PROVED)
        cup_pump_clear(&site->pumps[i]);
    return verdict == CUP_FAILED ? pass->event.cause.reason : CUP_REASON_NONE;
}

/* A run that nothing wants any more goes on to its shortest; but a person, or
 * a reading that is lost, is not kept waiting. */
static bool must_go_on(const struct cup_pass *pass, cup_index i)
{
    const struct cup_site *site = site_of(pass);
    const struct cup_pump_state *pump = &site->pumps[i];
    uint32_t shortest = site->plan->pumps[i].shortest_ms;
    if (CUP_IF(STEERING, pump->mode != CUP_MODE_AUTO) ||
        pump->duty == CUP_NONE ||
        cup_left(pass->now, pump->since_ms, shortest) == 0)
        return false;
    cup_index keep = site->plan->duties[pump->duty].keep;
    return keep == CUP_NONE || cup_usable(cup_reading_of(site, keep));
}

/* A valve of a pump's route is shut, or has a reason to shut. */
static uint8_t check_route(struct cup_pass *pass, cup_index i)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_duty *duty = cup_route_of(site, i);
    for (uint8_t v = 0; duty && v < duty->through_count; v++) {
        const struct cup_pump_state *valve = &site->pumps[duty->through[v]];
        if (cup_pump_is(valve, CUP_PUMP_IS_ON) &&
            valve->no == CUP_REASON_NONE &&
            cup_pump_is(valve, CUP_PUMP_IS_WANTED))
            continue;
        return cup_because(pass, CUP_REASON_ROUTE_SHUT,
                           cup_pump_thing(site->plan, duty->through[v]));
    }
    return CUP_REASON_NONE;
}

/* Why a running pump must stop; reason NONE when it need not. */
static uint8_t stop_cause(struct cup_pass *pass, cup_index i)
{
    const struct cup_pump_state *pump = &site_of(pass)->pumps[i];
    CUP_FLASH struct cup_pump *plan = &site_of(pass)->plan->pumps[i];
    if (pass->halt.reason != CUP_REASON_NONE) {
        pass->event.cause = pass->halt;
        return pass->halt.reason;
    }
    if (pump->no != CUP_REASON_NONE)
        return cup_pass_guard(pass, i, pump->no);
    if (cup_pump_ran_longest(plan, pump, pass->now))
        return cup_because_of(pass, CUP_REASON_LONGEST, CUP_NONE,
                              cup_ms(cup_elapsed(pass->now, pump->since_ms)),
                              cup_ms(plan->longest_ms));
    if (!cup_pump_is(pump, CUP_PUMP_IS_WANTED) && !must_go_on(pass, i))
        return cup_pass_wish(pass, i);
    uint8_t reason = check_route(pass, i);
    if (reason != CUP_REASON_NONE || !CUP_IF(PROOFS, plan->proof))
        return reason;
    return check_proof(pass, i);
}

/* Its travel turns, and its group has one more or one less. */
static void switch_extras(const struct cup_pass *pass, cup_index i, bool on)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_pump *plan = &site->plan->pumps[i];
    if (CUP_IF(AT_ONCE, plan->group < site->plan->group_count))
        site->groups[plan->group] =
            (uint8_t)(site->groups[plan->group] + (on ? 1 : -1));
    if (!CUP_IF(TRAVELS, plan->travel))
        return;
    cup_travel_turn(plan->travel, &site->travels[plan->travel_own], pass->now,
                    on);
    cup_pump_set(&site->pumps[i], CUP_PUMP_IS_MOVING, true);
}

/* The output goes on or off, with what hangs on it; the next pass is looked at
 * whole, since a guard may see a pump that is off in another light. */
static void switch_pump(struct cup_pass *pass, cup_index i, bool on)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_pump *plan = &site->plan->pumps[i];
    CUP_FLASH struct cup_proof *proof = plan->proof;
    if (CUP_IF(PER_DAYS, plan->per_day) && !on)
        cup_per_day_stop(&site->per_days[plan->per_day_own],
                         cup_run_of(&site->pumps[i], pass->now));
    if (on)
        cup_pump_start(&site->pumps[i], pass->now);
    else
        cup_pump_stop(&site->pumps[i], pass->now);
    cup_quiet_for(pass, 0);
    switch_extras(pass, i, on);
    count_mover(site, plan, on ? 1 : -1);
    if (CUP_IF(PER_DAYS, plan->per_day) && on)
        cup_per_day_start(&site->per_days[plan->per_day_own]);
    if (!CUP_IF(PROOFS, proof))
        return;
    struct cup_proof_state *state = &site->proofs[plan->proof_own];
    if (on)
        cup_proof_start(state, pass->now, cup_depth_of(site, proof->about));
    else
        cup_proof_stop(proof, state, pass->now,
                       cup_depth_of(site, proof->about));
    state->mixed |= on && is_mixed(site, plan);
}

/* A run that failed: too long, or nothing moved. */
static bool is_failure(uint8_t reason)
{
    return reason >= CUP_REASON_LONGEST && reason <= CUP_REASON_PROOF_UNSURE;
}

/* A duty that is done has its water; a proof knows better. */
static bool is_done(CUP_FLASH struct cup_pump *plan, uint8_t reason)
{
    return !plan->proof &&
           (reason == CUP_REASON_ABOVE_STOP ||
            reason == CUP_REASON_BELOW_STOP || reason == CUP_REASON_FAR_FULL ||
            reason == CUP_REASON_REACHED);
}

static void trip(struct cup_pass *pass, cup_index i)
{
    struct cup_pump_state *pump = &site_of(pass)->pumps[i];
    enum cup_kind kind = cup_pump_trip(&site_of(pass)->plan->pumps[i], pump);
    cup_pass_tell_pump(pass, i, CUP_KIND_TRIP);
    if (kind != CUP_KIND_LOCK)
        return;
    cup_because_of(pass, CUP_REASON_LOCKED, CUP_NONE, pump->trips, 0);
    cup_pass_tell_pump(pass, i, CUP_KIND_LOCK);
}

/* It is on after this pass. */
static void count_running(struct cup_pass *pass, cup_index i)
{
    pass->running++;
    if (!site_of(pass)->plan->pumps[i].uncounted)
        pass->pumps_running++;
}

/* A valve that a running pump needs shuts only once that pump is off. */
static void check_stop(struct cup_pass *pass, cup_index i)
{
    struct cup_pump_state *pump = &site_of(pass)->pumps[i];
    uint8_t reason = stop_cause(pass, i);
    if (reason == CUP_REASON_NONE || cup_route_in_use(pass, i)) {
        count_running(pass, i);
        if (reason != CUP_REASON_NONE)
            cup_quiet_for(pass, 0);
        return;
    }
    switch_pump(pass, i, false);
    cup_pass_tell_pump(pass, i, CUP_KIND_STOP);
    if (reason == pump->no)
        pump->told = pump->no;
    if (is_failure(reason))
        trip(pass, i);
    else if (is_done(&site_of(pass)->plan->pumps[i], reason))
        cup_pump_clear(pump);
}

/* Starts */

/* Whether this pass stopped it: then its stop said why already. */
static bool just_stopped(const struct cup_pass *pass,
                         const struct cup_pump_state *pump)
{
    return pump->since_ms == pass->now &&
           !cup_pump_is(pump, CUP_PUMP_IS_BOOTING);
}

/* A guard or a trip refuses a wish: told once. A hand run that is refused
 * does not lie in wait for the guard to clear. */
static void refuse(struct cup_pass *pass, cup_index i)
{
    struct cup_pump_state *pump = &site_of(pass)->pumps[i];
    bool by_hand = CUP_IF(STEERING, pump->mode == CUP_MODE_HAND);
    if (pump->no != CUP_REASON_NONE)
        cup_pass_guard(pass, i, pump->no);
    else
        cup_pass_rest(pass, i);
    if ((by_hand && !just_stopped(pass, pump)) ||
        (pump->no && pump->told == CUP_REASON_NONE))
        cup_pass_tell_pump(pass, i, CUP_KIND_BLOCK);
    if (pump->no != CUP_REASON_NONE && pump->told == CUP_REASON_NONE) {
        pump->told = pump->no;
        cup_quiet_for(pass, 0); /* its valves, if any, may shut */
    }
    if (!by_hand)
        return;
    cup_pump_end_hand(pump);
    pump->hand_for_ms = 0;
    cup_pump_set(pump, CUP_PUMP_IS_STEERED, false);
    cup_pass_mode(pass, pump);
    cup_pass_tell_pump(pass, i, CUP_KIND_MODE);
}

static void check_start(struct cup_pass *pass, cup_index i)
{
    struct cup_pump_state *pump = &site_of(pass)->pumps[i];
    if (pump->told != CUP_REASON_NONE && pump->no == CUP_REASON_NONE) {
        cup_pass_guard(pass, i, pump->told);
        cup_pass_tell_pump(pass, i, CUP_KIND_CLEAR);
        pump->told = CUP_REASON_NONE;
    }
    if (!cup_pump_is(pump, CUP_PUMP_IS_WANTED) ||
        cup_pump_is(pump, CUP_PUMP_IS_ON))
        return;
    if (pump->no != CUP_REASON_NONE || cup_pump_is(pump, CUP_PUMP_IS_TRIPPED)) {
        refuse(pass, i);
        return;
    }
    if (pass->halt.reason != CUP_REASON_NONE || !cup_pump_ready(pump) ||
        cup_pass_wait(pass, i) != CUP_REASON_NONE)
        return;
    cup_pass_wish(pass, i);
    cup_pass_tell_pump(pass, i, CUP_KIND_START);
    switch_pump(pass, i, true);
    count_running(pass, i);
}

/* ms until a proof is judged, a shortest run is over, a day or its limit. */
static uint32_t left_of_run(const struct cup_pass *pass, cup_index i)
{
    const struct cup_site *site = site_of(pass);
    const struct cup_pump_state *pump = &site->pumps[i];
    CUP_FLASH struct cup_pump *plan = &site->plan->pumps[i];
    uint32_t left = UINT32_MAX;
    if (CUP_IF(PROOFS, plan->proof)) {
        left = cup_proof_left(plan->proof, &site->proofs[plan->proof_own],
                              pass->now);
        if (CUP_USES_SLACK)
            cup_narrow_to(site, plan->proof->about, 0); /* each counts */
    }
    if (CUP_IF(PER_DAYS, plan->per_day))
        left =
            cup_least(left, cup_per_day_left(plan->per_day,
                                             &site->per_days[plan->per_day_own],
                                             cup_run_of(pump, pass->now)));
    if (!cup_pump_is(pump, CUP_PUMP_IS_WANTED))
        left = cup_least(
            left, cup_left(pass->now, pump->since_ms, plan->shortest_ms));
    return left;
}

/* ms until a day is over; past its 24 h, until midnight. */
static uint32_t left_of_day(const struct cup_pass *pass,
                            CUP_FLASH struct cup_pump *plan)
{
    uint32_t left =
        cup_left(pass->now, site_of(pass)->per_days[plan->per_day_own].began_ms,
                 CUP_DAY_MS);
    if (left > 0 || pass->minute == CUP_NO_MINUTE)
        return left;
    return CUP_DAY_MS - cup_pass_midnight(pass) % CUP_DAY_MS;
}

/* ms until it has arrived; UINT32_MAX when it has. */
static uint32_t left_of_travel(const struct cup_pass *pass, cup_index i)
{
    struct cup_pump_state *pump = &site_of(pass)->pumps[i];
    CUP_FLASH struct cup_pump *plan = &site_of(pass)->plan->pumps[i];
    uint32_t left =
        cup_travel_left(plan->travel, &site_of(pass)->travels[plan->travel_own],
                        pass->now, cup_pump_is(pump, CUP_PUMP_IS_ON));
    if (left > 0)
        return left;
    cup_pump_set(pump, CUP_PUMP_IS_MOVING, false);
    return UINT32_MAX;
}

CUP_APART static void next_of_pump(struct cup_pass *pass, cup_index i)
{
    const struct cup_site *site = site_of(pass);
    const struct cup_pump_state *pump = &site->pumps[i];
    CUP_FLASH struct cup_pump *plan = &site->plan->pumps[i];
    uint32_t left =
        cup_pump_left(plan, pump, pass->now, site->plan->boot_wait_ms);
    if (cup_pump_is(pump, CUP_PUMP_IS_ON))
        left = cup_least(left, left_of_run(pass, i));
    if (CUP_IF(PER_DAYS, plan->per_day))
        left = cup_least(left, left_of_day(pass, plan));
    if (CUP_IF(TRAVELS, plan->travel) && cup_pump_is(pump, CUP_PUMP_IS_MOVING))
        left = cup_least(left, left_of_travel(pass, i));
    cup_quiet_for(pass, left);
}

/* What a pump that is on, or was steered, has before any pump starts. */
CUP_RARE static void first_look(struct cup_pass *pass, cup_index i)
{
    cup_pump_set(&site_of(pass)->pumps[i], CUP_PUMP_IS_STEERED, false);
    if (cup_pump_is(&site_of(pass)->pumps[i], CUP_PUMP_IS_ON))
        check_stop(pass, i);
}

/* What a pump that is wanted, runs or rests has after all have stopped. */
CUP_RARE static void last_look(struct cup_pass *pass, cup_index i)
{
    check_start(pass, i);
    if (CUP_USES_QUIET)
        next_of_pump(pass, i);
}

/* What the port could not drive, or can again. */
CUP_RARE static void tell_drives(struct cup_pass *pass)
{
    for (cup_index i = 0; i < site_of(pass)->plan->pump_count; i++) {
        struct cup_pump_state *pump = &site_of(pass)->pumps[i];
        bool failing = cup_pump_is(pump, CUP_PUMP_IS_FAILING);
        if (failing == cup_pump_is(pump, CUP_PUMP_FAIL_TOLD))
            continue;
        cup_because(pass, CUP_REASON_CANNOT_DRIVE,
                    cup_pump_thing(site_of(pass)->plan, i));
        cup_pass_tell_pump(pass, i, failing ? CUP_KIND_ALERT : CUP_KIND_OVER);
        cup_pump_set(pump, CUP_PUMP_FAIL_TOLD, failing);
    }
}

CUP_APART void cup_pass_act(struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    if (site->pass->flags & PASS_DROVE)
        tell_drives(pass);
    CUP_FLASH struct cup_pump *plan = site->plan->pumps;
    struct cup_pump_state *end = site->pumps + site->plan->pump_count;
    for (struct cup_pump_state *pump = site->pumps; pump < end; pump++, plan++)
        check_guards(pass, plan, pump);
    for (struct cup_pump_state *pump = site->pumps; pump < end; pump++)
        if (cup_pump_is(pump, CUP_PUMP_IS_STEERED | CUP_PUMP_IS_ON))
            first_look(pass, (cup_index)(pump - site->pumps));
    if (CUP_IF(ROUTES, site->plan->routes > 0))
        cup_pass_routes(pass); /* guards may have cleared */
    for (struct cup_pump_state *pump = site->pumps; pump < end; pump++)
        if (pump->told != CUP_REASON_NONE ||
            cup_pump_is(pump, CUP_PUMP_IS_TIMED | CUP_PUMP_IS_ON |
                                  CUP_PUMP_IS_WANTED))
            last_look(pass, (cup_index)(pump - site->pumps));
}

/* The second time round the pumps are off, and nothing keeps a valve. */
static void stop_for_good(struct cup_pass *pass, cup_index i, int valves)
{
    if (!valves) {
        check_stop(pass, i);
        return;
    }
    switch_pump(pass, i, false);
    pass->event.cause = pass->halt;
    cup_pass_tell_pump(pass, i, CUP_KIND_STOP);
}

void cup_site_shut_down(const struct cup_site *site,
                        const struct cup_sink *sink)
{
    struct cup_pass_state *state = site->pass;
    struct cup_pass pass = {.sink = sink, .now = state->clock_ms};
    hold_site(&pass, site);
    pass.event.t_ms = state->seen_ms;
    cup_because(&pass, CUP_REASON_SHUT_DOWN, CUP_NONE);
    pass.halt = pass.event.cause;
    for (int valves = 0; valves < 2; valves++) /* they shut after the pumps */
        for (cup_index i = 0; i < site->plan->pump_count; i++)
            if (cup_pump_is(&site->pumps[i], CUP_PUMP_IS_ON))
                stop_for_good(&pass, i, valves);
    state->flags = (uint16_t)(state->flags | PASS_SHUT | PASS_TOUCHED);
    state->flags = (uint16_t)(state->flags & ~PASS_RUNNING);
}
