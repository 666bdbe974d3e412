/* One pass, in its fixed order: time, steering, readings and tanks, duties,
 * guards, stops, starts. When nothing was heard or said and nothing is timed
 * to happen yet, a pass is over before it begins. */
#include "inside.h"

/* A pass under way. `halt` is a reason for everything to stop. */
struct pass {
    const struct cup_site *site;
    const struct cup_sink *sink;
    struct cup_cause halt;
    uint32_t t_ms;
    uint32_t now;
    uint32_t quiet;
    cup_index running;
    bool still;
};

CUP_RARE static void tell(const struct pass *pass, cup_index of, uint8_t kind,
                          struct cup_cause cause)
{
    struct cup_event event = {pass->t_ms, cause, of, kind};
    if (pass->sink && pass->sink->take)
        pass->sink->take(pass->sink->self, &event);
}

static void tell_pump(const struct pass *pass, cup_index pump, uint8_t kind,
                      struct cup_cause cause)
{
    tell(pass, cup_pump_thing(pass->site->plan, pump), kind, cause);
}

/* A cause that is about the pump itself, or the site. */
static inline struct cup_cause plain(uint8_t reason, uint32_t value,
                                     uint32_t limit)
{
    return (struct cup_cause){
        .reason = reason,
        .about = CUP_NONE,
        .value = value > INT32_MAX ? INT32_MAX : (int32_t)value,
        .limit = limit > INT32_MAX ? INT32_MAX : (int32_t)limit,
    };
}

/* The cause for a reading that is lost, with its age, or was never known. */
static struct cup_cause lost_cause(const struct pass *pass, cup_index thing,
                                   uint8_t lost, uint8_t unknown)
{
    struct cup_reading reading = cup_reading_of(pass->site, thing);
    struct cup_cause cause = cup_unusable(thing, reading, lost, unknown);
    uint32_t age = cup_site_age_ms(pass->site, thing);
    if (reading.quality == CUP_QUALITY_LOST)
        cause.value = age > INT32_MAX ? INT32_MAX : (int32_t)age;
    return cause;
}

/* Time */

static void check_time(struct pass *pass)
{
    const struct cup_site *site = pass->site;
    struct cup_pass_state *state = site->pass;
    uint32_t step = pass->t_ms - state->seen_ms;
    if (step >= CUP_TIME_BACK) {
        pass->halt = plain(CUP_REASON_TIME_BACK, 0 - step, 0);
        tell(pass, CUP_NONE, CUP_KIND_ALERT, pass->halt);
        return;
    }
    if (state->flags & PASS_RUNNING)
        cup_site_check_late(site, pass->t_ms);
    if (state->flags & PASS_LATE)
        pass->halt = plain(CUP_REASON_LATE, step, site->plan->late_ms);
}

static void check_boot(const struct pass *pass)
{
    struct cup_pass_state *state = pass->site->pass;
    if (state->flags & PASS_BOOTED)
        return;
    state->flags |= PASS_BOOTED;
    tell(pass, CUP_NONE, CUP_KIND_BOOT, plain(CUP_REASON_POWER_ON, 0, 0));
}

/* Steering */

static struct cup_cause mode_cause(const struct cup_pump_state *pump)
{
    if (pump->mode == CUP_MODE_HAND)
        return plain(CUP_REASON_HAND, pump->hand_for_ms, pump->hand_for_ms);
    if (pump->hand_for_ms > 0)
        return plain(CUP_REASON_HAND_OVER, pump->hand_for_ms, 0);
    return plain(pump->mode == CUP_MODE_OFF ? CUP_REASON_OFF : CUP_REASON_AUTO,
                 0, 0);
}

static void steer_pump(const struct pass *pass, cup_index i)
{
    struct cup_pump_state *pump = &pass->site->pumps[i];
    if (cup_pump_is(pump, CUP_PUMP_IS_CLEARED))
        tell_pump(pass, i, CUP_KIND_CLEAR, plain(CUP_REASON_CLEARED, 0, 0));
    if (cup_pump_is(pump, CUP_PUMP_IS_STEERED))
        tell_pump(pass, i, CUP_KIND_MODE, mode_cause(pump));
    cup_pump_set(pump, CUP_PUMP_IS_CLEARED, false);
}

CUP_RARE static void check_pump(const struct pass *pass, cup_index i)
{
    CUP_FLASH struct cup_plan *plan = pass->site->plan;
    struct cup_pump_state *pump = &pass->site->pumps[i];
    cup_pump_age(&plan->pumps[i], pump, pass->now, plan->boot_wait_ms);
    if (cup_pump_is(pump, CUP_PUMP_IS_CLEARED | CUP_PUMP_IS_STEERED))
        steer_pump(pass, i);
}

static void check_steering(struct pass *pass)
{
    const struct cup_site *site = pass->site;
    struct cup_pass_state *state = site->pass;
    bool hold = state->flags & PASS_ON_HOLD;
    if (state->flags & PASS_HOLD_NEW)
        tell(pass, CUP_NONE, CUP_KIND_MODE,
             plain(hold ? CUP_REASON_HOLD : CUP_REASON_GO, 0, 0));
    if (hold && pass->halt.reason == CUP_REASON_NONE)
        pass->halt = plain(CUP_REASON_HOLD, 0, 0);
    struct cup_pump_state *end = site->pumps + site->plan->pump_count;
    for (struct cup_pump_state *pump = site->pumps; pump < end; pump++) {
        if (cup_pump_is(pump, CUP_PUMP_IS_TIMED) || pump->mode == CUP_MODE_HAND)
            check_pump(pass, (cup_index)(pump - site->pumps));
        cup_pump_set(pump, CUP_PUMP_IS_WANTED, pump->mode == CUP_MODE_HAND);
    }
}

/* Readings and tanks */

/* Tells of a reading that was lost, or is back. */
CUP_RARE static void check_lost(const struct pass *pass, cup_index i)
{
    struct cup_sensor_state *state = &pass->site->sensors[i];
    cup_sensor_age(&pass->site->plan->sensors[i], state, pass->now);
    bool lost = state->reading.quality == CUP_QUALITY_LOST;
    if (lost == ((state->reading.flags & CUP_READING_LOST) != 0))
        return;
    state->reading.flags ^= CUP_READING_LOST;
    struct cup_cause cause = {.about = i,
                              .reason = CUP_REASON_READABLE,
                              .value = state->reading.value};
    if (lost)
        cause = lost_cause(pass, i, CUP_REASON_READING_LOST, 0);
    tell(pass, i, CUP_KIND_QUALITY, cause);
}

/* Nearer than the ranger can see: the tank counts as full. */
static void fill_tank(const struct cup_site *site, cup_index i,
                      const struct cup_sensor_state *sensor)
{
    CUP_FLASH struct cup_tank *tank = &site->plan->tanks[i];
    struct cup_tank_state *state = &site->tanks[i];
    state->value = sensor->reading.reason == CUP_REASON_NEAR
                       ? CUP_TANK_FULL
                       : cup_tank_fill_pct100(tank, sensor->reading.value);
    state->shown = state->value;
    if (site->plan->checks > 0 && sensor->reading.reason == CUP_REASON_NONE)
        state->shown =
            cup_tank_fill_pct100(tank, cup_shown_of(site, tank->sensor));
}

static void measure(struct pass *pass)
{
    CUP_FLASH struct cup_plan *plan = pass->site->plan;
    CUP_FLASH struct cup_sensor *sensor = plan->sensors;
    CUP_FLASH struct cup_sensor *end = sensor + plan->sensor_count;
    const struct cup_sensor_state *state = pass->site->sensors;
    for (; sensor < end; sensor++, state++) {
        uint32_t left =
            cup_left(pass->now, state->good_ms, sensor->lost_after_ms);
        if (left == 0 || (state->reading.flags & CUP_READING_LOST))
            check_lost(pass, (cup_index)(sensor - plan->sensors));
        else
            pass->quiet = cup_least(pass->quiet, left);
    }
    for (cup_index i = 0; i < plan->tank_count; i++) {
        state = &pass->site->sensors[plan->tanks[i].sensor];
        if (state->reading.flags & CUP_READING_NEW ||
            state->reading.reason == CUP_REASON_NEAR)
            fill_tank(pass->site, i, state);
    }
}

/* Duties */

static void step_duty(struct pass *pass, cup_index i)
{
    const struct cup_site *site = pass->site;
    CUP_FLASH struct cup_duty *duty = &site->plan->duties[i];
    struct cup_duty_state *state = &site->duties[i];
    const struct cup_pump_state *pump = &site->pumps[duty->pump];
    if (cup_pump_is(pump, CUP_PUMP_IS_STEERED) && pump->mode == CUP_MODE_AUTO)
        cup_latch_release(&state->latch);
    struct cup_reading reading = cup_reading_of(site, duty->keep);
    cup_index sensor = cup_thing_sensor(site->plan, duty->keep);
    bool news = site->sensors[sensor].reading.flags & CUP_READING_NEW;
    uint32_t left = cup_duty_step(duty, state, pass->now, reading,
                                  cup_shown_of(site, duty->keep), news);
    pass->quiet = cup_least(pass->quiet, left);
}

/* A pump is driven by the first duty that asks, in the order of the plan; a
 * duty that drives it now keeps it. */
static void offer(const struct cup_site *site, cup_index i)
{
    struct cup_pump_state *pump = &site->pumps[site->plan->duties[i].pump];
    if (pump->mode != CUP_MODE_AUTO)
        return;
    bool driven = cup_pump_is(pump, CUP_PUMP_IS_ON) &&
                  cup_duty_asks(&site->duties[pump->duty]);
    if (!driven && !cup_pump_is(pump, CUP_PUMP_IS_WANTED))
        pump->duty = i;
    cup_pump_set(pump, CUP_PUMP_IS_WANTED, true);
}

static void decide(struct pass *pass)
{
    const cup_index duties = pass->site->plan->duty_count;
    if (!pass->still)
        for (cup_index i = 0; i < duties; i++)
            step_duty(pass, i);
    for (cup_index i = 0; i < duties; i++)
        if (cup_duty_asks(&pass->site->duties[i]))
            offer(pass->site, i);
}

/* Guards and stops */

static struct cup_cause guard_cause(const struct pass *pass, cup_index i,
                                    uint8_t reason)
{
    CUP_FLASH struct cup_guard *guard =
        cup_guard_of(&pass->site->plan->pumps[i], reason);
    if (!guard)
        return plain(reason, 0, 0);
    struct cup_reading reading = cup_reading_of(pass->site, guard->about);
    if (!cup_usable(reading))
        return lost_cause(pass, guard->about, reason, reason);
    return cup_guard_cause(guard, reason, reading);
}

static void check_guards(const struct pass *pass,
                         CUP_FLASH struct cup_pump *plan,
                         struct cup_pump_state *pump)
{
    uint8_t no = CUP_REASON_NONE;
    CUP_FLASH struct cup_guard *guard = plan->guards + plan->guard_count;
    while (guard > plan->guards) { /* from the last: the first no counts */
        guard--;
        uint8_t says = cup_guard_step(guard, pump,
                                      cup_reading_of(pass->site, guard->about));
        no = says ? says : no;
    }
    pump->no = no;
}

static struct cup_cause duty_cause(const struct pass *pass, cup_index duty)
{
    CUP_FLASH struct cup_duty *plan = &pass->site->plan->duties[duty];
    struct cup_reading reading = cup_reading_of(pass->site, plan->keep);
    if (!cup_usable(reading))
        return lost_cause(pass, plan->keep, CUP_REASON_READING_LOST,
                          CUP_REASON_NO_READING);
    return cup_duty_cause(plan, &pass->site->duties[duty], reading);
}

static struct cup_cause wish_cause(const struct pass *pass, cup_index i)
{
    const struct cup_pump_state *pump = &pass->site->pumps[i];
    if (pump->mode == CUP_MODE_OFF)
        return plain(CUP_REASON_OFF, 0, 0);
    if (pump->mode == CUP_MODE_HAND)
        return plain(CUP_REASON_HAND,
                     cup_left(pass->now, pump->hand_ms, pump->hand_for_ms),
                     pump->hand_for_ms);
    if (pump->hand_for_ms > 0)
        return plain(CUP_REASON_HAND_OVER, pump->hand_for_ms, 0);
    return pump->duty == CUP_NONE ? plain(CUP_REASON_NO_DUTY, 0, 0)
                                  : duty_cause(pass, pump->duty);
}

/* Why a running pump must stop; reason NONE when it need not. */
static struct cup_cause stop_cause(const struct pass *pass, cup_index i)
{
    const struct cup_pump_state *pump = &pass->site->pumps[i];
    CUP_FLASH struct cup_pump *plan = &pass->site->plan->pumps[i];
    if (pass->halt.reason != CUP_REASON_NONE)
        return pass->halt;
    if (pump->no != CUP_REASON_NONE)
        return guard_cause(pass, i, pump->no);
    if (cup_pump_ran_longest(plan, pump, pass->now))
        return plain(CUP_REASON_LONGEST, cup_elapsed(pass->now, pump->since_ms),
                     plan->longest_ms);
    if (!cup_pump_is(pump, CUP_PUMP_IS_WANTED))
        return wish_cause(pass, i);
    return plain(CUP_REASON_NONE, 0, 0);
}

static void trip(const struct pass *pass, cup_index i, struct cup_cause cause)
{
    struct cup_pump_state *pump = &pass->site->pumps[i];
    enum cup_kind kind = cup_pump_trip(&pass->site->plan->pumps[i], pump);
    tell_pump(pass, i, CUP_KIND_TRIP, cause);
    if (kind == CUP_KIND_LOCK)
        tell_pump(pass, i, CUP_KIND_LOCK,
                  plain(CUP_REASON_LOCKED, pump->trips, 0));
}

CUP_RARE static void check_stop(struct pass *pass, cup_index i)
{
    struct cup_pump_state *pump = &pass->site->pumps[i];
    struct cup_cause cause = stop_cause(pass, i);
    if (cause.reason == CUP_REASON_NONE) {
        pass->running++;
        return;
    }
    cup_pump_stop(pump, pass->now);
    tell_pump(pass, i, CUP_KIND_STOP, cause);
    if (cause.reason == pump->no)
        pump->told = pump->no;
    if (cause.reason == CUP_REASON_LONGEST)
        trip(pass, i, cause);
    else if (cause.reason == CUP_REASON_ABOVE_STOP ||
             cause.reason == CUP_REASON_BELOW_STOP)
        cup_pump_clear(pump);
}

/* Starts */

static struct cup_cause not_fresh(cup_index about)
{
    return (struct cup_cause){.about = about, .reason = CUP_REASON_NOT_FRESH};
}

static struct cup_cause wait_cause(const struct pass *pass, cup_index i)
{
    const struct cup_site *site = pass->site;
    const struct cup_pump_state *pump = &site->pumps[i];
    CUP_FLASH struct cup_pump *plan = &site->plan->pumps[i];
    for (uint8_t g = 0; g < plan->guard_count; g++)
        if (!cup_fresh(cup_reading_of(site, plan->guards[g].about)))
            return not_fresh(plan->guards[g].about);
    if (pump->mode == CUP_MODE_AUTO && pump->duty != CUP_NONE) {
        cup_index keep = site->plan->duties[pump->duty].keep;
        if (!cup_fresh(cup_reading_of(site, keep)))
            return not_fresh(keep);
    }
    if (site->plan->at_once > 0 && pass->running >= site->plan->at_once)
        return plain(CUP_REASON_AT_ONCE, pass->running, site->plan->at_once);
    return plain(CUP_REASON_NONE, 0, 0);
}

/* A guard or a trip refuses a wish: told once. A hand run that is refused
 * does not lie in wait for the guard to clear. */
static void refuse(const struct pass *pass, cup_index i)
{
    struct cup_pump_state *pump = &pass->site->pumps[i];
    bool by_hand = pump->mode == CUP_MODE_HAND;
    struct cup_cause cause;
    if (pump->no != CUP_REASON_NONE)
        cause = guard_cause(pass, i, pump->no);
    else
        cause = cup_pump_cause(&pass->site->plan->pumps[i], pump, pass->now,
                               pass->site->plan->boot_wait_ms);
    if (by_hand || (pump->no && pump->told == CUP_REASON_NONE))
        tell_pump(pass, i, CUP_KIND_BLOCK, cause);
    if (pump->no != CUP_REASON_NONE && pump->told == CUP_REASON_NONE)
        pump->told = pump->no;
    if (!by_hand)
        return;
    cup_pump_end_hand(pump);
    pump->hand_for_ms = 0;
    cup_pump_set(pump, CUP_PUMP_IS_STEERED, false);
    tell_pump(pass, i, CUP_KIND_MODE, mode_cause(pump));
}

CUP_RARE static void check_start(struct pass *pass, cup_index i)
{
    struct cup_pump_state *pump = &pass->site->pumps[i];
    if (pump->told != CUP_REASON_NONE && pump->no == CUP_REASON_NONE) {
        tell_pump(pass, i, CUP_KIND_CLEAR, guard_cause(pass, i, pump->told));
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
        wait_cause(pass, i).reason != CUP_REASON_NONE)
        return;
    tell_pump(pass, i, CUP_KIND_START, wish_cause(pass, i));
    cup_pump_start(pump, pass->now);
    pass->running++;
}

CUP_RARE static void next_of_pump(struct pass *pass, cup_index i)
{
    const struct cup_site *site = pass->site;
    uint32_t left = cup_pump_left(&site->plan->pumps[i], &site->pumps[i],
                                  pass->now, site->plan->boot_wait_ms);
    pass->quiet = cup_least(pass->quiet, left);
}

static void act(struct pass *pass)
{
    const struct cup_site *site = pass->site;
    CUP_FLASH struct cup_pump *plan = site->plan->pumps;
    struct cup_pump_state *end = site->pumps + site->plan->pump_count;
    for (struct cup_pump_state *pump = site->pumps; pump < end;
         pump++, plan++) {
        check_guards(pass, plan, pump);
        if (cup_pump_is(pump, CUP_PUMP_IS_STEERED))
            cup_pump_set(pump, CUP_PUMP_IS_STEERED, false);
        if (cup_pump_is(pump, CUP_PUMP_IS_ON))
            check_stop(pass, (cup_index)(pump - site->pumps));
    }
    for (struct cup_pump_state *pump = site->pumps; pump < end; pump++) {
        if (pump->told || cup_pump_is(pump, CUP_PUMP_IS_WANTED))
            check_start(pass, (cup_index)(pump - site->pumps));
        if (cup_pump_is(pump, CUP_PUMP_IS_TIMED | CUP_PUMP_IS_ON) ||
            pump->mode == CUP_MODE_HAND)
            next_of_pump(pass, (cup_index)(pump - site->pumps));
    }
}

/* The pass as a whole */

static void close_pass(struct pass *pass)
{
    const struct cup_site *site = pass->site;
    struct cup_pass_state *state = site->pass;
    struct cup_sensor_state *end = site->sensors + site->plan->sensor_count;
    for (struct cup_sensor_state *at = site->sensors; at < end; at++)
        at->reading.flags &= (uint8_t)~CUP_READING_NEW;
    unsigned kept = state->flags & (PASS_BEGUN | PASS_BOOTED | PASS_ON_HOLD);
    if (pass->running > 0) {
        kept |= PASS_RUNNING;
        pass->quiet = cup_least(pass->quiet, site->plan->late_ms + 1);
    }
    state->flags = (uint16_t)kept;
    bool again = pass->still || pass->halt.reason == CUP_REASON_LATE ||
                 pass->halt.reason == CUP_REASON_TIME_BACK;
    state->quiet_ms = again ? 0 : pass->quiet;
}

static void full_pass(const struct cup_site *site, uint32_t now_ms,
                      const struct cup_sink *sink)
{
    struct cup_pass_state *state = site->pass;
    struct pass pass = {.site = site, .sink = sink, .t_ms = now_ms};
    pass.now = inner_time(state, now_ms);
    pass.quiet = QUIET_MAX;
    pass.still = now_ms == state->seen_ms && (state->flags & PASS_BOOTED);
    check_boot(&pass);
    check_time(&pass);
    state->seen_ms = now_ms;
    state->clock_ms = pass.now;
    check_steering(&pass);
    measure(&pass);
    decide(&pass);
    act(&pass);
    close_pass(&pass);
}

void cup_site_decide(const struct cup_site *site, uint32_t now_ms,
                     const struct cup_sink *sink)
{
    struct cup_pass_state *state = site->pass;
    uint32_t step = now_ms - state->seen_ms;
    if (step < state->quiet_ms && !(state->flags & PASS_TOUCHED)) {
        state->seen_ms = now_ms;
        state->clock_ms += step;
        state->quiet_ms -= step;
        return;
    }
    if (!(state->flags & PASS_BEGUN))
        cup_site_begin(site, now_ms);
    full_pass(site, now_ms, sink);
}

void cup_site_shut_down(const struct cup_site *site,
                        const struct cup_sink *sink)
{
    struct cup_pass_state *state = site->pass;
    struct pass pass = {.site = site, .sink = sink, .t_ms = state->seen_ms};
    pass.now = state->clock_ms;
    pass.halt = plain(CUP_REASON_SHUT_DOWN, 0, 0);
    for (cup_index i = 0; i < site->plan->pump_count; i++)
        if (cup_pump_is(&site->pumps[i], CUP_PUMP_IS_ON))
            check_stop(&pass, i);
    state->flags = (uint16_t)(state->flags | PASS_ON_HOLD | PASS_TOUCHED);
    state->flags = (uint16_t)(state->flags & ~PASS_RUNNING);
}

struct cup_cause cup_site_why(const struct cup_site *site, cup_index i)
{
    CUP_FLASH struct cup_plan *plan = site->plan;
    struct pass pass = {.site = site, .now = site->pass->clock_ms};
    if (i >= plan->pump_count)
        return plain(CUP_REASON_NONE, 0, 0);
    const struct cup_pump_state *pump = &site->pumps[i];
    switch (cup_pump_shows(pump)) {
    case CUP_PUMP_TRIPPED:
    case CUP_PUMP_RESTING:
        return cup_pump_cause(&plan->pumps[i], pump, pass.now,
                              plan->boot_wait_ms);
    case CUP_PUMP_BLOCKED:
        return guard_cause(&pass, i, pump->no);
    case CUP_PUMP_WAITING:
        return site->pass->flags & PASS_ON_HOLD ? plain(CUP_REASON_HOLD, 0, 0)
                                                : wait_cause(&pass, i);
    default:
        return wish_cause(&pass, i);
    }
}
