/* The whole site on hold. */
#include "inside.h"

#if CUP_USES_STEERING

/* A run by hand does not wait for the end of a hold. */
static void end_hands(const struct cup_site *site, uint32_t now)
{
    for (cup_index i = 0; i < site->plan->pump_count; i++)
        if (site->pumps[i].mode == CUP_MODE_HAND)
            cup_pump_end_hand(&site->pumps[i], now);
}

void cup_in_hold_set(const struct cup_site *site, uint32_t now, bool hold)
{
    struct cup_pass_state *pass = site->pass;
    bool was = pass->flags & PASS_ON_HOLD;
    if (hold)
        end_hands(site, now);
    if (was != hold)
        pass->flags |= PASS_HOLD_NEW;
    unsigned kept = pass->flags & ~(unsigned)PASS_ON_HOLD;
    pass->flags = (uint16_t)(hold ? kept | PASS_ON_HOLD : kept);
}

#endif
