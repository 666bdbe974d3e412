/* What asks for water and is kept off, by anything but a person: told once that
 * has lasted for as long as the site is patient, and when it is over. */
#include "inside.h"

#if CUP_USES_CHOICES

/* Neither a person, who knows, nor a trip, which was told, keeps it off. */
static bool is_waiting(const struct cup_pass *pass,
                       const struct cup_choice_state *state)
{
    const struct cup_pump_state *pump = pass->pump;
    bool served = cup_pump_is(pump, CUP_PUMP_IS_ON) && pump->duty == pass->d;
    return !served && !cup_choice_is(state, CUP_CHOICE_STANDS) &&
           pump->mode == CUP_MODE_AUTO &&
           !(site_of(pass)->pass->flags & PASS_ON_HOLD) &&
           !cup_pump_is(pump, CUP_PUMP_IS_TRIPPED);
}

/* What keeps it off: what a guard looks at, else the pump itself. */
static cup_index kept_by(struct cup_pass *pass)
{
    pass->event.cause.about = CUP_NONE;
    if (pass->pump->no != CUP_REASON_NONE)
        cup_in_why_guard(pass, pass->pump->no);
    return pass->event.cause.about != CUP_NONE
               ? pass->event.cause.about
               : cup_pump_thing(site_of(pass)->plan, pass->duty->pump);
}

static void end_wait(struct cup_pass *pass, struct cup_choice_state *state)
{
    bool told = cup_choice_is(state, CUP_CHOICE_KEPT_TOLD);
    cup_set_bits(&state->flags, CUP_CHOICE_KEPT | CUP_CHOICE_KEPT_TOLD, false);
    if (!told)
        return;
    cup_in_because(pass, CUP_REASON_KEPT_OFF, CUP_NONE);
    cup_in_tell(pass, cup_duty_thing(site_of(pass)->plan, pass->d),
                CUP_KIND_OVER);
}

void cup_in_waits_look(struct cup_pass *pass, bool wants)
{
    const struct cup_site *site = site_of(pass);
    const uint32_t patience_ms = site->plan->patience_ms;
    struct cup_choice_state *state = cup_in_choices_duty(site, pass->d);
    if (!wants || !is_waiting(pass, state)) {
        if (cup_choice_is(state, CUP_CHOICE_KEPT))
            end_wait(pass, state);
        return;
    }
    if (!cup_choice_is(state, CUP_CHOICE_KEPT))
        state->since_ms = pass->now;
    cup_set_bits(&state->flags, CUP_CHOICE_KEPT, true);
    if (cup_choice_is(state, CUP_CHOICE_KEPT_TOLD))
        return;
    uint32_t left = cup_left(pass->now, state->since_ms, patience_ms);
    if (left > 0) {
        cup_in_quiet_for(pass, left);
        return;
    }
    cup_set_bits(&state->flags, CUP_CHOICE_KEPT_TOLD, true);
    cup_in_because_of(pass, CUP_REASON_KEPT_OFF, kept_by(pass),
                      cup_in_number_of_ms(patience_ms), 0);
    cup_in_tell(pass, cup_duty_thing(site->plan, pass->d), CUP_KIND_ALERT);
}

#endif
