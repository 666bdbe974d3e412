/* One pass, in its fixed order: time, steering, readings and tanks, duties,
 * guards, stops, starts. When nothing that was heard or said is news and
 * nothing is timed to happen yet, a pass is over before it begins. */
#include "inside.h"

/* Time */

/* What was just found out stops everything. */
CUP_APART static void halt(struct cup_pass *pass)
{
    pass->halt = pass->event.cause;
    cup_in_quiet_for(pass, 0);
}

/* After a pass that stopped everything, or in which time stood still, the next
 * is looked at whole. */
static void check_time(struct cup_pass *pass, uint32_t step)
{
    const struct cup_site *site = site_of(pass);
    struct cup_pass_state *state = site->pass;
    if (step >= CUP_TIME_BACK) {
        cup_in_because_of(pass, CUP_REASON_TIME_BACK, CUP_NONE,
                          cup_in_number_of_ms(0 - step), 0);
        halt(pass);
        cup_in_tell(pass, CUP_NONE, CUP_KIND_ALERT);
        return;
    }
    if (state->flags & PASS_RUNNING)
        cup_in_hear_late(site, step);
    if (!(state->flags & PASS_LATE))
        return;
    cup_in_because_of(pass, CUP_REASON_LATE, CUP_NONE, (int32_t)step,
                      (int32_t)site->plan->late_ms);
    halt(pass);
}

static void check_boot(struct cup_pass *pass)
{
    struct cup_pass_state *state = site_of(pass)->pass;
    if (state->flags & PASS_BOOTED)
        return;
    cup_set_bits(&state->flags, PASS_BOOTED, true);
    cup_in_tell_note(pass, CUP_NONE, CUP_KIND_BOOT, CUP_REASON_POWER_ON);
}

/* The journal could not be written, or can again. */
static void tell_journal(struct cup_pass *pass)
{
    uint8_t *journal = &site_of(pass)->pass->journal;
    if (*journal == CUP_JOURNAL_FAILS_TOLD)
        return;
    bool fails = *journal == CUP_JOURNAL_FAILS;
    *journal = fails ? CUP_JOURNAL_FAILS_TOLD : CUP_JOURNAL_WORKS;
    cup_in_tell_note(pass, CUP_NONE, fails ? CUP_KIND_ALERT : CUP_KIND_OVER,
                     CUP_REASON_JOURNAL_FAILS);
}

/* Steering */

#if CUP_USES_STEERING
static void steer_pump(struct cup_pass *pass)
{
    struct cup_pump_state *pump = pass->pump;
    if (cup_pump_is(pump, CUP_PUMP_IS_CLEARED))
        cup_in_tell_note(pass, cup_pump_thing(site_of(pass)->plan, pass->i),
                         CUP_KIND_CLEAR, CUP_REASON_CLEARED);
    if (cup_pump_is(pump, CUP_PUMP_SAID_OFF) && pump->mode != CUP_MODE_OFF)
        cup_in_tell_note(pass, cup_pump_thing(site_of(pass)->plan, pass->i),
                         CUP_KIND_MODE, CUP_REASON_OFF);
    if (cup_pump_is(pump, CUP_PUMP_IS_STEERED)) {
        cup_in_why_mode(pass);
        cup_in_tell_pump(pass, CUP_KIND_MODE);
    }
    cup_pump_set(pump, CUP_PUMP_IS_CLEARED, false);
}

static void tell_hold(struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    bool hold = site->pass->flags & PASS_ON_HOLD;
    cup_in_because(pass, hold ? CUP_REASON_HOLD : CUP_REASON_GO, CUP_NONE);
    CUP_WHERE(CHOICES, {
        if (hold)
            cup_in_choices_cause(
                pass,
                (cup_index)(site->plan->pump_count + site->plan->duty_count),
                CUP_REASON_HOLD, CUP_REASON_HOLD_FOR, CUP_NONE);
    })
    cup_in_tell(pass, CUP_NONE, CUP_KIND_MODE);
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
        tell_hold(pass);
    if (CUP_USES_LAMPS && (site_of(pass)->pass->mood & CUP_MOOD_QUIETED)) {
        site_of(pass)->pass->mood &= (uint8_t)~CUP_MOOD_QUIETED;
        cup_in_tell_note(pass, CUP_NONE, CUP_KIND_MODE, CUP_REASON_QUIET);
    }
    if (CUP_USES_SETTINGS && (flags & PASS_SET))
        cup_in_settings_tell(pass);
    if (pass->halt.reason == CUP_REASON_NONE) {
        cup_in_because(pass, reason, CUP_NONE);
        pass->halt = pass->event.cause;
    }
}
#endif

static void check_pump(struct cup_pass *pass)
{
    cup_pump_age(pass->pump_plan, pass->pump, pass->now,
                 site_of(pass)->plan->boot_wait_ms);
    CUP_WHERE(STEERING, {
        if (cup_pump_is(pass->pump, CUP_PUMP_IS_CLEARED | CUP_PUMP_IS_STEERED))
            steer_pump(pass);
    })
}

static void check_steering(struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    CUP_WHERE(CHOICES, {
        if (site->pass->standing > 0)
            cup_in_choices_step(pass);
    })
    CUP_WHERE(STEERING, {
        if ((site->pass->flags &
             (PASS_HOLD_NEW | PASS_SET | PASS_ON_HOLD | PASS_SHUT)) ||
            CUP_IF(LAMPS, site->pass->mood & CUP_MOOD_QUIETED))
            check_site(pass);
    })
    struct cup_pump_state *pump = site->pumps;
    for (cup_index i = 0; i < site->plan->pump_count; i++, pump++) {
        bool by_hand = CUP_USES_STEERING && pump->mode == CUP_MODE_HAND;
        if (cup_pump_is(pump, CUP_PUMP_IS_TIMED) || by_hand) {
            cup_in_pass_pump(pass, i);
            check_pump(pass);
        }
        cup_pump_set(pump, CUP_PUMP_IS_ROUTE | CUP_PUMP_IS_WANTED, false);
        if (CUP_USES_STEERING && pump->mode == CUP_MODE_HAND)
            cup_pump_set(pump, CUP_PUMP_IS_WANTED, true);
    }
}

/* Readings */

/* Tells of a reading that was lost, or is back. */
static void tell_lost(struct cup_pass *pass, cup_index i, bool lost)
{
    if (lost)
        cup_in_why_lost(pass, i, CUP_REASON_READING_LOST, 0);
    else
        cup_in_because_values(pass, CUP_REASON_READABLE, i,
                              cup_in_levels_value(site_of(pass), i), 0);
    cup_in_tell(pass, i, CUP_KIND_QUALITY);
}

/* A reading was lost, is back, or is lost still and that may be told now. */
static void note_lost(struct cup_pass *pass, cup_index i,
                      struct cup_sensor_state *state)
{
    bool lost = state->reading.quality == CUP_QUALITY_LOST;
    bool news = lost != ((state->reading.flags & CUP_READING_LOST) != 0);
    if (news)
        state->reading.flags ^= CUP_READING_LOST;
    CUP_WHERE(SPANS, {
        if (news && lost)
            cup_in_spans_lose(site_of(pass), i);
    })
    if (CUP_IF_ELSE(ONCE, cup_in_onces_tell(pass, i, i, lost, news), news))
        tell_lost(pass, i, lost);
}

/* ms until a reading that is not lost yet would be; 0 when one is. */
static uint32_t alive_for(const struct cup_site *site, uint32_t now)
{
    uint32_t least = QUIET_MAX;
    CUP_FLASH struct cup_sensor *sensor = site->plan->sensors;
    const struct cup_sensor_state *state = site->sensors;
    for (unsigned more = site->plan->sensor_count; more > 0;
         more--, sensor++, state++)
        if (!(state->reading.flags & CUP_READING_LOST))
            least = cup_least(
                least, cup_left(now, state->good_ms, sensor->lost_after_ms));
    return least;
}

/* Readings grow older, and are lost in the end. */
static void age_all(struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_sensor *sensor = site->plan->sensors;
    struct cup_sensor_state *state = site->sensors;
    for (cup_index i = 0; i < site->plan->sensor_count;
         i++, sensor++, state++) {
        if (state->good_ms != pass->now)
            cup_sensor_age(sensor, state, pass->now);
        if (state->reading.quality == CUP_QUALITY_LOST ||
            (state->reading.flags & CUP_READING_LOST))
            note_lost(pass, i, state);
    }
}

static void measure(struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_plan *plan = site->plan;
    age_all(pass);
    CUP_WHERE(SEVERAL, if (plan->severals > 0) cup_in_parts_tell(pass);)
    CUP_WHERE(SPANS, if (plan->spans > 0) cup_in_spans_tell(pass);)
    if (CUP_USES_QUIET)
        site->quiet->alive_ms = alive_for(site, pass->now);
    for (unsigned left = CUP_USES_SLACK ? cup_pump_thing(plan, 0) : 0; left > 0;
         left--)
        site->slack[left - 1] = pass->still ? 0 : UINT16_MAX;
}

/* The pass as a whole */

/* Where there is one site its pass has a place of its own: a compiler knows it,
 * and a small stack need not hold it. */
#ifdef CUP_ONE_SITE
#define IN_PLACE static
#else
#define IN_PLACE
#endif

#if CUP_USES_LAMPS
/* What is quiet stays so while something is wrong. */
static void set_mood(const struct cup_site *site)
{
    uint8_t kept = site->pass->mood & (CUP_MOOD_QUIET | CUP_MOOD_QUIETED);
    enum cup_mood mood = cup_site_mood(site);
    if (mood != CUP_MOOD_FAULT)
        kept &= CUP_MOOD_QUIETED;
    site->pass->mood = (uint8_t)(mood | kept);
}
#endif

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
        cup_in_quiet_for(pass, site->plan->late_ms + 1);
    }
    state->flags = (uint16_t)kept;
    CUP_WHERE(QUIET, site->quiet->pass_ms = pass->quiet;)
    CUP_WHERE(LAMPS, if (site->plan->signal_count > 0) set_mood(site);)
}

/* `step` is the time since the last pass. What a pass does not read before it
 * has written it is left as it is: to clear it takes longer than to set this.
 */
static void full_pass(const struct cup_site *site, uint32_t now_ms,
                      uint32_t step, const struct cup_sink *sink)
{
    struct cup_pass_state *state = site->pass;
    IN_PLACE struct cup_pass pass;
    pass.sink = sink;
    pass.halt.reason = CUP_REASON_NONE;
    pass.running = 0;
    pass.pumps_running = 0;
    hold_site(&pass, site);
    pass.event.t_ms = now_ms;
    if (step < CUP_TIME_BACK)
        state->clock_ms += step;
    state->seen_ms = now_ms;
    pass.now = state->clock_ms;
    pass.still = step == 0 && (state->flags & PASS_BOOTED);
    CUP_WHERE(QUIET, pass.quiet = pass.still ? 0 : QUIET_MAX;)
    check_boot(&pass);
    if (CUP_USES_JOURNAL && state->journal != CUP_JOURNAL_WORKS)
        tell_journal(&pass);
    check_time(&pass, step);
    check_steering(&pass);
    measure(&pass);
    CUP_WHERE(CLOCK, pass.minute = CUP_NO_MINUTE;)
    if (CUP_IF(DAYS, site->plan->day_count > 0) ||
        CUP_IF(CLOCK, site->wall->s > 0))
        cup_in_daylight_step(&pass);
    cup_in_duties_step(&pass);
    cup_in_act_step(&pass);
    if (CUP_IF(WATCHES, site->plan->watch_count > 0) ||
        CUP_IF(ALERTS, site->plan->alert_count > 0))
        cup_in_watches_step(&pass);
    close_pass(&pass);
}

/* Whether nothing can come of a pass: nothing timed has happened, nothing was
 * said or heard that is news, and no reading is lost. */
static bool is_quiet(const struct cup_site *site, uint32_t step)
{
    struct cup_quiet_state *quiet = site->quiet;
    if (step >= quiet->pass_ms || (site->pass->flags & PASS_TOUCHED))
        return false;
    if (step >= quiet->alive_ms) /* what was heard since has put that off */
        quiet->alive_ms = alive_for(site, site->pass->clock_ms + step) + step;
    return step < quiet->alive_ms;
}

#if !CUP_USES_QUIET
/* Whether nothing can come of a pass because it is before its time. */
static bool is_early(const struct cup_site *site, uint32_t step)
{
    const unsigned news = PASS_TOUCHED | PASS_BEGUN;
    return (site->pass->flags & news) == PASS_BEGUN &&
           step < site->plan->scan_ms;
}
#endif

CUP_APART void cup_site_decide(const struct cup_site *site, uint32_t now_ms,
                               const struct cup_sink *sink)
{
    struct cup_pass_state *state = site->pass;
    uint32_t step = now_ms - state->seen_ms;
    if (CUP_USES_QUIET && is_quiet(site, step)) {
        state->seen_ms = now_ms;
        state->clock_ms += step;
        site->quiet->pass_ms -= step;
        site->quiet->alive_ms -= step;
        return;
    }
    if (CUP_IF_ELSE(QUIET, false, is_early(site, step)))
        return;
    if (!(state->flags & PASS_BEGUN)) {
        cup_in_bind_begin(site, now_ms);
        step = 0;
    }
    full_pass(site, now_ms, step, sink);
}
