/* What a pass notices when all is decided: watches and alerts. They stop
 * nothing. */
#include "inside.h"

static bool is_disturbed(const struct cup_site *site,
                         CUP_FLASH struct cup_watch *watch)
{
    CUP_FLASH struct cup_plan *plan = site->plan;
    if (!cup_in_levels_usable(site, watch->about))
        return true;
    CUP_WHERE(SPANS, {
        const struct cup_span_state *span = cup_in_spans_of(site, watch->about);
        if (span && cup_span_is(span, CUP_SPAN_LEAPT | CUP_SPAN_BRIM))
            return true; /* what is not believed has not leaked */
    })
    if (watch->pump != CUP_NONE &&
        cup_pump_is(&site->pumps[watch->pump], CUP_PUMP_IS_ON))
        return true;
    return watch->about >= plan->sensor_count &&
           site->tanks[watch->about - plan->sensor_count].movers > 0;
}

static uint8_t watch_reason(CUP_FLASH struct cup_watch *watch)
{
    if (watch->kind == CUP_WATCH_LEAK)
        return CUP_REASON_LEAK;
    if (watch->kind == CUP_WATCH_VOLUME)
        return CUP_REASON_VOLUME;
    return (uint8_t)(CUP_REASON_STILL_FALLS + watch->way);
}

static void tell_watch(struct cup_pass *pass, CUP_FLASH struct cup_watch *watch,
                       enum cup_watch_says says, int32_t shown)
{
    CUP_FLASH struct cup_plan *plan = site_of(pass)->plan;
    enum cup_kind kind = CUP_KIND_ALERT;
    if (watch->kind == CUP_WATCH_LEAK)
        kind = CUP_KIND_LEAK;
    if (says == CUP_WATCH_OVER)
        kind = CUP_KIND_OVER;
    cup_in_because_of(pass, watch_reason(watch), watch->about, shown,
                      watch->change);
    cup_in_tell(pass,
                watch->pump == CUP_NONE ? watch->about
                                        : cup_pump_thing(plan, watch->pump),
                (uint8_t)kind);
}

#if CUP_USES_VOLUMES
static enum cup_watch_says step_volume(const struct cup_pass *pass,
                                       CUP_FLASH struct cup_watch *watch,
                                       struct cup_watch_state *state,
                                       int32_t *shown)
{
    const struct cup_site *site = site_of(pass);
    cup_index tank = (cup_index)(watch->about - site->plan->sensor_count);
    CUP_FLASH struct cup_tank *plan = &site->plan->tanks[tank];
    const struct cup_pump_state *pump = &site->pumps[watch->pump];
    int32_t held =
        cup_tank_volume_ml(plan, cup_in_levels_value(site, plan->sensor));
    return cup_watch_volume(watch, state, cup_pump_is(pump, CUP_PUMP_IS_ON),
                            cup_in_pass_run(pump, pass->now), held, shown);
}

#endif

/* A run that may outlast its tank is looked at with each sample of the tank. */
static uint32_t left_of_watch(const struct cup_pass *pass,
                              CUP_FLASH struct cup_watch *watch,
                              const struct cup_watch_state *state)
{
    const struct cup_site *site = site_of(pass);
    if (!CUP_IF(VOLUMES, watch->kind == CUP_WATCH_VOLUME))
        return cup_watch_left(watch, state, pass->now);
    if (!(state->flags & CUP_WATCH_BEGUN))
        return UINT32_MAX;
    if (CUP_USES_SLACK)
        cup_in_weigh_to(site, watch->about, 0);
    return cup_watch_volume_left(
        watch, state, cup_in_pass_run(&site->pumps[watch->pump], pass->now));
}

/* Nothing can come of it in this pass: no run to measure, or a window that is
 * neither over nor disturbed. */
static bool is_idle(struct cup_pass *pass, CUP_FLASH struct cup_watch *watch,
                    const struct cup_watch_state *state)
{
    if (CUP_IF(VOLUMES, watch->kind == CUP_WATCH_VOLUME))
        return !(state->flags & CUP_WATCH_BEGUN) &&
               !cup_pump_is(&site_of(pass)->pumps[watch->pump], CUP_PUMP_IS_ON);
    if (!CUP_USES_QUIET)
        return false;
    uint32_t left = cup_watch_left(watch, state, pass->now);
    if (left == 0 || left == UINT32_MAX || is_disturbed(site_of(pass), watch))
        return false;
    cup_in_quiet_for(pass, left);
    return true;
}

static void step_watch(struct cup_pass *pass, cup_index i)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_watch *watch = &site->plan->watches[i];
    struct cup_watch_state *state = &site->watches[i];
    int32_t shown = 0;
    enum cup_watch_says says;
    if (is_idle(pass, watch, state))
        return;
    if (CUP_IF(VOLUMES, watch->kind == CUP_WATCH_VOLUME))
        says = CUP_IF(VOLUMES, step_volume(pass, watch, state, &shown));
    else
        says =
            cup_watch_step(watch, state, pass->now, is_disturbed(site, watch),
                           cup_in_levels_depth(site, watch->about), &shown);
    if (says != CUP_WATCH_NOTHING)
        tell_watch(pass, watch, says, shown);
    if (CUP_USES_QUIET)
        cup_in_quiet_for(pass, left_of_watch(pass, watch, state));
}

/* The numbers as they are now: an alert that is said again may be on its way
 * out already. */
static void alert_cause(struct cup_pass *pass,
                        CUP_FLASH struct cup_alert *alert, cup_value value,
                        enum cup_alert_says says)
{
    cup_value start = CUP_TOLD(&alert->latch, start);
    cup_value stop = CUP_TOLD(&alert->latch, stop);
    bool low = start < stop;
    bool past = low ? value < start : value > start;
    bool fresh = past && says == CUP_ALERT_SAY;
    uint8_t reason = low ? CUP_REASON_ALERT_BELOW : CUP_REASON_ALERT_ABOVE;
    if (!fresh && says == CUP_ALERT_SAY)
        reason = CUP_REASON_ALERT_LASTS;
    cup_in_because_of(pass, reason, alert->about, value, fresh ? start : stop);
}

#if CUP_USES_ONCE
/* What comes of an alert that says so: one that wavers is told once a
 * repeat, its own or that of the site, whichever is shorter. */
static enum cup_alert_says hushed(struct cup_pass *pass, cup_index i, bool on,
                                  bool stood, enum cup_alert_says says)
{
    CUP_FLASH struct cup_plan *plan = site_of(pass)->plan;
    cup_index which = (cup_index)(CUP_ONCES_ALERTS(plan) + i);
    uint32_t own_ms = plan->alerts[i].repeat_ms;
    if (plan->repeat_ms == 0)
        return says;
    if (own_ms == 0 || own_ms > plan->repeat_ms)
        own_ms = plan->repeat_ms;
    if (cup_in_onces_every(pass, which, cup_alert_thing(plan, i), on, own_ms))
        return on ? CUP_ALERT_SAY : CUP_ALERT_OVER;
    bool told = site_of(pass)->onces[which].flags & CUP_ONCE_TOLD;
    return told && stood ? says : CUP_ALERT_NOTHING;
}
#endif

static void step_alert(struct cup_pass *pass, cup_index i)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_alert *alert = &site->plan->alerts[i];
    struct cup_alert_state *state = &site->alerts[i];
    bool news = cup_in_levels_behind(site, alert->about)->reading.flags &
                CUP_READING_NEW;
    if (!cup_in_levels_usable(site, alert->about)) {
        state->latch.samples = 0; /* neither worse nor over */
        return;
    }
    cup_mark shown = cup_in_levels_shown(site, alert->about);
    const bool stood = state->latch.on;
    enum cup_alert_says says =
        cup_alert_step(alert, state, pass->now, shown, news);
    struct cup_latch room;
    if (CUP_USES_SLACK)
        cup_in_weigh_latch(site, alert->about,
                           cup_in_levels_mark(site, alert->about), shown,
                           cup_latch_of(&alert->latch, &room), &state->latch);
    cup_in_quiet_for(pass, cup_alert_left(alert, state, pass->now));
    CUP_WHERE(ONCE, {
        if (stood || state->latch.on)
            says = hushed(pass, i, state->latch.on, stood, says);
    })
    if (says == CUP_ALERT_NOTHING)
        return;
    alert_cause(pass, alert, cup_site_shown(site, alert->about), says);
    const uint8_t mood = site->pass->mood;
    cup_in_tell(pass, cup_alert_thing(site->plan, i),
                says == CUP_ALERT_SAY ? CUP_KIND_ALERT : CUP_KIND_OVER);
    if (CUP_USES_LAMPS && stood) /* said again: nothing new is wrong */
        site->pass->mood |= mood & CUP_MOOD_QUIET;
}

void cup_in_watches_step(struct cup_pass *pass)
{
    CUP_FLASH struct cup_plan *plan = site_of(pass)->plan;
    for (cup_index i = 0; CUP_USES_WATCHES && i < plan->watch_count; i++)
        step_watch(pass, i);
    for (cup_index i = 0; CUP_USES_ALERTS && i < plan->alert_count; i++)
        step_alert(pass, i);
}
