/* Day and night, by light or by the clock. */
#include "inside.h"

static void step_day(struct cup_pass *pass, cup_index i)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_day *day = &site->plan->days[i];
    struct cup_latch_state *state = &site->days[i];
    bool was_day = cup_day_flags(state) & CUP_DAY_IS_DAY;
    uint8_t flags = 0;
    cup_mark shown = CUP_AS_MARK(0);
    if (day->light != CUP_NONE) {
        flags = cup_in_levels_flags(site, day->light);
        shown = cup_in_levels_shown(site, day->light);
    }
    uint32_t left =
        cup_day_step(day, state, pass->now, flags & CUP_READING_KNOWN, shown,
                     flags & CUP_READING_NEW, cup_in_clock_minute(pass));
    if (CUP_USES_SLACK && day->light != CUP_NONE) {
        struct cup_latch room;
        cup_in_weigh_latch(site, day->light,
                           cup_in_levels_mark(site, day->light), shown,
                           cup_latch_of(&day->latch, &room), state);
    }
    if (CUP_IF(CLOCK, day->from != day->to))
        left = cup_least(left, cup_in_clock_next_minute(pass));
    cup_in_quiet_for(pass, left);
    bool is_day = cup_day_flags(state) & CUP_DAY_IS_DAY;
    if (is_day == was_day)
        return;
    cup_in_quiet_for(pass, 0); /* dawn is for this pass only */
    cup_in_tell_note(pass, cup_day_thing(site->plan, i), CUP_KIND_MODE,
                     is_day ? CUP_REASON_DAY : CUP_REASON_NIGHT);
}

void cup_in_daylight_step(struct cup_pass *pass)
{
    CUP_WHERE(CLOCK, {
        if (site_of(pass)->wall->s > 0)
            cup_in_clock_tick(pass);
        if (site_of(pass)->pass->flags & PASS_CLOCK)
            cup_in_tell_note(pass, CUP_NONE, CUP_KIND_SETTING,
                             CUP_REASON_CLOCK);
    })
    for (cup_index i = 0; i < site_of(pass)->plan->day_count && !pass->still;
         i++)
        step_day(pass, i);
}
