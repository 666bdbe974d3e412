/* What comes and goes is told at the soonest once every repeat. */
#include "inside.h"

#if CUP_USES_ONCE

bool cup_in_onces_tell(struct cup_pass *pass, cup_index which, cup_index about,
                       bool there, bool news)
{
    const struct cup_site *site = site_of(pass);
    return site->plan->repeat_ms == 0
               ? news
               : cup_in_onces_every(pass, which, about, there,
                                    site->plan->repeat_ms);
}

bool cup_in_onces_every(struct cup_pass *pass, cup_index which, cup_index about,
                        bool there, uint32_t repeat_ms)
{
    const struct cup_site *site = site_of(pass);
    struct cup_once_state *state = &site->onces[which];
    if (!there)
        return cup_once_goes(state);
    if (!cup_once_comes(state, pass->now, repeat_ms)) {
        cup_in_quiet_for(pass, cup_once_left(state, pass->now, repeat_ms));
        return false;
    }
    if (state->unsaid > 0) {
        cup_in_because_values(pass, CUP_REASON_MEANWHILE, about, state->unsaid,
                              0);
        cup_in_tell(pass, about, CUP_KIND_QUALITY);
        state->unsaid = 0;
    }
    return true;
}

#endif
