/* The clock on the wall. */
#include "inside.h"

#define DAY_S UINT32_C(86400)

uint32_t cup_site_clock_s(const struct cup_site *site)
{
    const struct cup_wall_state *wall = site->wall;
    if (!CUP_USES_CLOCK || wall->s == 0)
        return 0;
    return wall->s + cup_elapsed(site->pass->clock_ms, wall->at_ms) / 1000;
}

bool cup_site_is_day(const struct cup_site *site, cup_index day)
{
    cup_index days = site->plan->day_count;
    return day < days &&
           (cup_day_flags(&site->days[cup_in_pass_own(days, day)]) &
            CUP_DAY_IS_DAY);
}

#if CUP_USES_CLOCK
/* Whole seconds go into the clock, so that it never wraps. */
void cup_in_clock_tick(struct cup_pass *pass)
{
    struct cup_wall_state *wall = site_of(pass)->wall;
    uint32_t gone = cup_elapsed(pass->now, wall->at_ms) / 1000;
    wall->s += gone;
    wall->at_ms += gone * 1000;
    pass->minute = (uint16_t)(wall->s % DAY_S / 60);
}

#if CUP_USES_TURNS && CUP_USES_JOURNAL
/* Turns are older by so much than the journal knows. */
static void age_turns(const struct cup_site *site, uint32_t off_ms)
{
    CUP_FLASH struct cup_plan *plan = site->plan;
    uint32_t now = site->pass->clock_ms;
    for (cup_index i = 0; i < plan->turns; i++) {
        struct cup_turn_state *turn = &site->turns[i];
        uint32_t age = cup_elapsed(now, turn->started_ms);
        turn->started_ms =
            now - cup_least(age + off_ms, cup_most(age, CUP_TIME_MAX_MS));
    }
}
#else
static void age_turns(const struct cup_site *site, uint32_t off_ms)
{
    (void)site, (void)off_ms;
}
#endif

/* The time without power, once the clock tells of it. */
static void count_time_off(const struct cup_site *site, uint32_t off_ms)
{
    age_turns(site, off_ms);
    CUP_WHERE(CHOICES, cup_in_choices_age(site, off_ms);)
}

void cup_in_clock_set(const struct cup_site *site, uint32_t now,
                      uint32_t clock_s)
{
    struct cup_wall_state *wall = site->wall;
    uint32_t would_be = wall->kept_s + cup_elapsed(now, wall->kept_ms) / 1000;
    if (wall->kept_s > 0 && clock_s > would_be)
        count_time_off(
            site, cup_least(clock_s - would_be, CUP_TIME_MAX_MS / 1000) * 1000);
    wall->kept_s = 0;
    wall->s = clock_s;
    wall->at_ms = now;
    site->pass->flags |= PASS_CLOCK;
}

uint16_t cup_in_clock_date(const struct cup_pass *pass)
{
    return (uint16_t)(site_of(pass)->wall->s / DAY_S);
}

uint32_t cup_in_clock_midnight(const struct cup_pass *pass)
{
    const struct cup_wall_state *wall = site_of(pass)->wall;
    return wall->s % DAY_S * 1000 + cup_elapsed(pass->now, wall->at_ms);
}

/* What goes by the clock is looked at every minute. */
uint32_t cup_in_clock_next_minute(const struct cup_pass *pass)
{
    return pass->minute == CUP_NO_MINUTE
               ? UINT32_MAX
               : 60000 - cup_in_clock_midnight(pass) % 60000;
}

#else
/* There is none: cup_in_clock_minute() says so, and the other is not called. */
uint16_t cup_in_clock_date(const struct cup_pass *pass)
{
    (void)pass;
    return 0;
}

uint32_t cup_in_clock_midnight(const struct cup_pass *pass)
{
    (void)pass;
    return 0;
}
#endif
