/* One pass, in its fixed order: time, steering, readings and tanks, duties,
 * guards, stops, starts. When nothing was heard or said and nothing is timed
 * to happen yet, a pass is over before it begins. */
#include "inside.h"

/* Time */

/* After a pass that stopped everything, or in which time stood still, the next
 * is looked at whole: quiet is 0. */
static void check_time(struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    struct cup_pass_state *state = site->pass;
    uint32_t step = pass->t_ms - state->seen_ms;
    if (step >= CUP_TIME_BACK) {
        pass->halt = cup_plain(CUP_REASON_TIME_BACK, 0 - step, 0);
        pass->quiet = 0;
        cup_pass_tell(pass, CUP_NONE, CUP_KIND_ALERT, pass->halt);
        return;
    }
    if (state->flags & PASS_RUNNING)
        cup_site_check_late(site, pass->t_ms);
    if (!(state->flags & PASS_LATE))
        return;
    pass->halt = cup_plain(CUP_REASON_LATE, step, site->plan->late_ms);
    pass->quiet = 0;
}

static void check_boot(const struct cup_pass *pass)
{
    struct cup_pass_state *state = site_of(pass)->pass;
    if (state->flags & PASS_BOOTED)
        return;
    state->flags |= PASS_BOOTED;
    cup_pass_tell(pass, CUP_NONE, CUP_KIND_BOOT,
                  cup_plain(CUP_REASON_POWER_ON, 0, 0));
}

/* Steering */

static void steer_pump(const struct cup_pass *pass, cup_index i)
{
    struct cup_pump_state *pump = &site_of(pass)->pumps[i];
    if (cup_pump_is(pump, CUP_PUMP_IS_CLEARED))
        cup_pass_tell_pump(pass, i, CUP_KIND_CLEAR,
                           cup_plain(CUP_REASON_CLEARED, 0, 0));
    if (cup_pump_is(pump, CUP_PUMP_IS_STEERED))
        cup_pass_tell_pump(pass, i, CUP_KIND_MODE, cup_pass_mode(pump));
    cup_pump_set(pump, CUP_PUMP_IS_CLEARED, false);
}

CUP_RARE static void check_pump(const struct cup_pass *pass, cup_index i)
{
    CUP_FLASH struct cup_plan *plan = site_of(pass)->plan;
    struct cup_pump_state *pump = &site_of(pass)->pumps[i];
    cup_pump_age(&plan->pumps[i], pump, pass->now, plan->boot_wait_ms);
    if (CUP_IF(STEERING,
               cup_pump_is(pump, CUP_PUMP_IS_CLEARED | CUP_PUMP_IS_STEERED)))
        steer_pump(pass, i);
}

/* What was said to the whole site, and whether that keeps all off. */
static void check_site(struct cup_pass *pass)
{
    unsigned flags = site_of(pass)->pass->flags;
    uint8_t reason = CUP_REASON_NONE;
    if (flags & PASS_SHUT)
        reason = CUP_REASON_SHUT_DOWN;
    if (flags & PASS_ON_HOLD)
        reason = CUP_REASON_HOLD;
    if (flags & PASS_HOLD_NEW)
        cup_pass_tell(
            pass, CUP_NONE, CUP_KIND_MODE,
            cup_plain(flags & PASS_ON_HOLD ? CUP_REASON_HOLD : CUP_REASON_GO, 0,
                      0));
    if (CUP_IF(SETTINGS, flags & PASS_SET))
        cup_pass_settings(pass);
    if (pass->halt.reason == CUP_REASON_NONE)
        pass->halt = cup_plain(reason, 0, 0);
}

static void check_steering(struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    const unsigned said = PASS_HOLD_NEW | PASS_SET | PASS_ON_HOLD | PASS_SHUT;
    if (CUP_IF(STEERING, site->pass->flags & said))
        check_site(pass);
    struct cup_pump_state *end = site->pumps + site->plan->pump_count;
    for (struct cup_pump_state *pump = site->pumps; pump < end; pump++) {
        if (cup_pump_is(pump, CUP_PUMP_IS_TIMED) || pump->mode == CUP_MODE_HAND)
            check_pump(pass, (cup_index)(pump - site->pumps));
        cup_pump_set(pump, CUP_PUMP_IS_ROUTE | CUP_PUMP_IS_WANTED, false);
        if (CUP_IF(STEERING, pump->mode == CUP_MODE_HAND))
            cup_pump_set(pump, CUP_PUMP_IS_WANTED, true);
    }
}

/* Readings and tanks */

/* Tells of a reading that was lost, or is back. */
CUP_RARE static void check_lost(const struct cup_pass *pass, cup_index i)
{
    struct cup_sensor_state *state = &site_of(pass)->sensors[i];
    cup_sensor_age(&site_of(pass)->plan->sensors[i], state, pass->now);
    bool lost = state->reading.quality == CUP_QUALITY_LOST;
    if (lost == ((state->reading.flags & CUP_READING_LOST) != 0))
        return;
    state->reading.flags ^= CUP_READING_LOST;
    struct cup_cause cause = {.about = i,
                              .reason = CUP_REASON_READABLE,
                              .value = state->reading.value};
    if (lost)
        cause = cup_pass_lost(pass, i, CUP_REASON_READING_LOST, 0);
    cup_pass_tell(pass, i, CUP_KIND_QUALITY, cause);
}

/* Two floats that contradict each other say nothing: the upper is lifted and
 * the lower is not. */
struct cup_reading cup_floats_reading(const struct cup_site *site,
                                      CUP_FLASH struct cup_tank *tank)
{
    struct cup_reading low = site->sensors[tank->sensor].reading;
    if (tank->high == CUP_NONE)
        return low;
    struct cup_reading high = site->sensors[tank->high].reading;
    struct cup_reading worse = high.quality > low.quality ? high : low;
    worse.flags = low.flags & high.flags;
    if (cup_usable(worse) && high.value > 0 && low.value == 0) {
        worse.quality = CUP_QUALITY_LOST;
        worse.reason = CUP_REASON_FAULT;
        worse.flags = 0;
    }
    return worse;
}

static void fill_by_floats(const struct cup_site *site,
                           CUP_FLASH struct cup_tank *tank,
                           struct cup_tank_state *state)
{
    state->value =
        site->sensors[tank->sensor].reading.value > 0 ? tank->low_pct100 : 0;
    if (tank->high != CUP_NONE && site->sensors[tank->high].reading.value > 0)
        state->value = tank->high_pct100;
    state->shown = state->value;
}

/* Nearer than the ranger can see: the tank counts as full. */
static void fill_tank(const struct cup_site *site,
                      CUP_FLASH struct cup_tank *tank,
                      struct cup_tank_state *state,
                      const struct cup_sensor_state *sensor)
{
    state->value = sensor->reading.reason == CUP_REASON_NEAR
                       ? CUP_TANK_FULL
                       : cup_tank_fill_pct100(tank, sensor->reading.value);
    state->shown = state->value;
    if (CUP_IF(CHECKS, site->plan->checks > 0) &&
        sensor->reading.reason == CUP_REASON_NONE)
        state->shown =
            cup_tank_fill_pct100(tank, cup_shown_of(site, tank->sensor));
}

static void measure(struct cup_pass *pass)
{
    CUP_FLASH struct cup_plan *plan = site_of(pass)->plan;
    CUP_FLASH struct cup_sensor *sensor = plan->sensors;
    const struct cup_sensor_state *state = site_of(pass)->sensors;
    for (unsigned more = plan->sensor_count; more > 0;
         more--, sensor++, state++) {
        uint32_t left =
            cup_left(pass->now, state->good_ms, sensor->lost_after_ms);
        if (left == 0 || (state->reading.flags & CUP_READING_LOST))
            check_lost(pass, (cup_index)(sensor - plan->sensors));
        else
            pass->quiet = cup_least(pass->quiet, left);
    }
    struct cup_tank_state *level = site_of(pass)->tanks;
    CUP_FLASH struct cup_tank *tank = plan->tanks;
    for (unsigned left = plan->tank_count; left > 0; left--, tank++, level++) {
        state = &site_of(pass)->sensors[tank->sensor];
        if (CUP_IF(FLOATS, tank->form == CUP_TANK_FLOATS))
            fill_by_floats(site_of(pass), tank, level);
        else if (state->reading.flags & CUP_READING_NEW ||
                 state->reading.reason == CUP_REASON_NEAR)
            fill_tank(site_of(pass), tank, level, state);
    }
}

/* The pass as a whole */

static void close_pass(struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    struct cup_pass_state *state = site->pass;
    struct cup_sensor_state *end = site->sensors + site->plan->sensor_count;
    for (struct cup_sensor_state *at = site->sensors; at < end; at++)
        at->reading.flags &= (uint8_t)~CUP_READING_NEW;
    unsigned kept = state->flags & (PASS_BEGUN | PASS_BOOTED | PASS_ON_HOLD |
                                    PASS_ASKING | PASS_AGAIN | PASS_FAILING |
                                    PASS_WRITE | PASS_AT_ONCE | PASS_SHUT);
    if (pass->running > 0) {
        kept |= PASS_RUNNING;
        pass->quiet = cup_least(pass->quiet, site->plan->late_ms + 1);
    }
    state->flags = (uint16_t)kept;
    state->quiet_ms = pass->quiet;
}

static void full_pass(const struct cup_site *site, uint32_t now_ms,
                      const struct cup_sink *sink)
{
    struct cup_pass_state *state = site->pass;
    struct cup_pass pass = {.site = site, .sink = sink, .t_ms = now_ms};
    pass.now = inner_time(state, now_ms);
    pass.still = now_ms == state->seen_ms && (state->flags & PASS_BOOTED);
    pass.quiet = pass.still ? 0 : QUIET_MAX;
    check_boot(&pass);
    check_time(&pass);
    state->seen_ms = now_ms;
    state->clock_ms = pass.now;
    check_steering(&pass);
    measure(&pass);
    pass.minute = CUP_NO_MINUTE;
    if (CUP_IF(DAYS, site->plan->day_count > 0) ||
        CUP_IF(CLOCK, state->wall_s > 0))
        cup_pass_clock(&pass);
    cup_pass_duties(&pass);
    cup_pass_act(&pass);
    if (CUP_IF(WATCHES, site->plan->watch_count > 0) ||
        CUP_IF(ALERTS, site->plan->alert_count > 0))
        cup_pass_notice(&pass);
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
