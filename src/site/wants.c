/* Whether a duty asks for its pump. */
#include "inside.h"

/* Whether it would have its pump run, whoever keeps it from that. */
bool cup_in_wants_despite(const struct cup_site *site, cup_index i)
{
    CUP_FLASH struct cup_duty *duty = &site->plan->duties[i];
    const struct cup_latch_state *state = &site->duties[i].latch;
    CUP_WHERE(TURNS, {
        if (duty->turn)
            return cup_turn_asks(&site->turns[cup_in_pass_own(
                       site->plan->turns, duty->turn_own)]) &&
                   (duty->keep == CUP_NONE ||
                    cup_in_levels_decides(site, duty->keep));
    })
    bool on = state->on;
    CUP_WHERE(ALSOS, if (duty->also) on = site->alsos[duty->also_own].own[0];)
    (void)site;
    (void)duty;
    return on && (!CUP_IF(DOSES, duty->dose) || cup_dose_asks(state));
}

bool cup_in_wants(const struct cup_site *site, cup_index i)
{
    return !CUP_IF(CHOICES, cup_in_choices_off(site, i)) &&
           !CUP_IF(TRIES, cup_tries_rests(&site->tries[i])) &&
           cup_in_wants_despite(site, i);
}
