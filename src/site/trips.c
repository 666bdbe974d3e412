/* Duties whose beds do not answer, and what that says of their pumps. */
#include "inside.h"

#if CUP_USES_TRIES

bool cup_in_trips_trip(struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    const cup_index d = (cup_index)pass->pump->duty;
    uint16_t *blame = &site->blames[pass->i];
    const cup_index of = cup_duty_thing(site->plan, d);
    enum cup_kind kind =
        cup_tries_fail(&site->tries[d], pass->now, pass->pump_plan->retries);
    pass->event.cause.reason = CUP_REASON_UNANSWERED;
    cup_in_tell(pass, of, CUP_KIND_TRIP);
    if (kind == CUP_KIND_LOCK) {
        cup_in_because_values(pass, CUP_REASON_DUTY_LOCKED, of,
                              site->tries[d].trips, 0);
        cup_in_tell(pass, of, CUP_KIND_LOCK);
    }
    const bool second = *blame != 0 && *blame != (uint16_t)(d + 1);
    *blame = (uint16_t)(d + 1);
    if (second)
        cup_in_because(pass, CUP_REASON_TWO_DUTIES, of);
    return second;
}

void cup_in_trips_acquit(const struct cup_pass *pass)
{
    site_of(pass)->blames[pass->i] = 0;
}

void cup_in_trips_done(const struct cup_pass *pass)
{
    if (pass->pump->mode == CUP_MODE_AUTO && pass->pump->duty != CUP_NONE)
        cup_tries_clear(&site_of(pass)->tries[pass->pump->duty]);
    cup_in_trips_acquit(pass);
}

/* Its reading went past stop though its run was over: water takes its time. */
static bool answers_late(const struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    const cup_index keep = pass->duty->keep;
    struct cup_latch room;
    return !CUP_IF(TURNS, pass->duty->turn) && keep != CUP_NONE &&
           cup_in_levels_decides(site, keep) &&
           cup_latch_past_stop(cup_in_pass_latch(pass, &room),
                               cup_in_levels_end(site, keep, CUP_END_HIGH));
}

void cup_in_trips_step(struct cup_pass *pass)
{
    struct cup_tries_state *state = &site_of(pass)->tries[pass->d];
    if (state->flags & CUP_TRIES_CLEARED) {
        state->flags = 0;
        cup_in_tell_note(pass, cup_duty_thing(site_of(pass)->plan, pass->d),
                         CUP_KIND_CLEAR, CUP_REASON_CLEARED);
        return;
    }
    uint32_t left =
        cup_tries_left(state, pass->now,
                       &site_of(pass)->plan->pumps[pass->duty->pump].retry_ms);
    if (left == UINT32_MAX)
        return;
    cup_in_quiet_for(pass, left);
    if (!answers_late(pass))
        return;
    cup_tries_clear(state);
    uint16_t *blame = &site_of(pass)->blames[pass->duty->pump];
    if (*blame == (uint16_t)(pass->d + 1))
        *blame = 0;
}

void cup_in_trips_clear(const struct cup_site *site, cup_index duty)
{
    struct cup_tries_state *state = &site->tries[duty];
    if (state->trips == 0)
        return;
    cup_tries_clear(state);
    state->flags = CUP_TRIES_CLEARED;
}

void cup_in_trips_clear_all(const struct cup_site *site, cup_index pump)
{
    site->blames[pump] = 0;
    for (cup_index d = 0; d < site->plan->duty_count; d++)
        if (site->plan->duties[d].pump == pump)
            cup_in_trips_clear(site, d);
}

#endif
