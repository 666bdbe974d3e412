/* What people chose of pumps, duties and the site. */
#include "inside.h"

#if CUP_USES_CHOICES

static cup_index row_of_site(CUP_FLASH struct cup_plan *plan)
{
    return (cup_index)(plan->pump_count + plan->duty_count);
}

struct cup_choice_state *cup_in_choices_site(const struct cup_site *site)
{
    return &site->choices[row_of_site(site->plan)];
}

struct cup_choice_state *cup_in_choices_duty(const struct cup_site *site,
                                             cup_index duty)
{
    return &site->choices[site->plan->pump_count + duty];
}

/* All that people can have chosen. */
#define CHOSEN                                                                 \
    ((unsigned)UINT16_MAX & ~(unsigned)(CUP_CHOICE_KEPT | CUP_CHOICE_KEPT_TOLD))

void cup_in_choices_recount(const struct cup_site *site, bool unkept)
{
    uint16_t standing = 0;
    for (cup_index i = 0; i <= row_of_site(site->plan); i++)
        standing =
            (uint16_t)(standing + cup_choice_is(&site->choices[i], CHOSEN));
    site->pass->standing = standing;
    site->pass->unkept = unkept;
}

static void count_standing(const struct cup_site *site)
{
    cup_in_choices_recount(site, true);
}

void cup_in_choices_take(const struct cup_site *site, cup_index row,
                         uint32_t now, uint32_t for_ms)
{
    cup_choice_take(&site->choices[row], now, for_ms);
    count_standing(site);
}

void cup_in_choices_end(const struct cup_site *site, cup_index row)
{
    cup_choice_end(&site->choices[row]);
    count_standing(site);
}

void cup_in_choices_skip(const struct cup_site *site, cup_index duty)
{
    cup_in_choices_duty(site, duty)->flags |=
        CUP_CHOICE_SKIP | CUP_CHOICE_SKIPS;
    count_standing(site);
}

void cup_in_choices_skipped(struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    cup_set_bits(&cup_in_choices_duty(site, pass->d)->flags,
                 CUP_CHOICE_SKIP | CUP_CHOICE_SKIPS, false);
    count_standing(site);
    cup_in_tell_note(pass, cup_duty_thing(site->plan, pass->d), CUP_KIND_MODE,
                     CUP_REASON_SKIPPED);
}

/* What stands, of a pump or a duty. */
uint8_t cup_in_choices_cause(struct cup_pass *pass, cup_index row,
                             uint8_t forever, uint8_t for_now, cup_index about)
{
    const struct cup_choice_state *state = &site_of(pass)->choices[row];
    uint32_t left = cup_choice_left(state, pass->now);
    return cup_in_because_of(pass, left > 0 ? for_now : forever, about,
                             cup_in_number_of_ms(left), 0);
}

void cup_in_choices_note(const struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    cup_index pump = pass->duty->pump;
    struct cup_choice_state *by = cup_in_choices_site(site);
    if (!cup_choice_is(by, CUP_CHOICE_STANDS))
        by = cup_in_choices_duty(site, pass->d);
    if (!cup_choice_is(by, CUP_CHOICE_STANDS))
        by = &site->choices[pump];
    if (cup_choice_is(by, CUP_CHOICE_STANDS))
        cup_set_bits(&by->flags, CUP_CHOICE_ASKED, true);
}

/* It is over by itself: what was before returns. */
static void end_row(const struct cup_pass *pass, cup_index row)
{
    const struct cup_site *site = site_of(pass);
    struct cup_pump_state *pump = &site->pumps[row];
    if (row == row_of_site(site->plan))
        cup_in_hold_set(site, pass->now, false);
    else if (row >= site->plan->pump_count)
        cup_latch_release(&site->duties[row - site->plan->pump_count].latch);
    else if (pump->mode == CUP_MODE_OFF)
        cup_pump_switch(pump, CUP_MODE_AUTO, pass->now, 0);
    else
        cup_pump_set(pump, CUP_PUMP_WAS_OFF, false);
}

/* The thing of a row; the site is none. */
static cup_index thing_of(const struct cup_site *site, cup_index row)
{
    return row == row_of_site(site->plan) ? CUP_NONE
                                          : cup_pump_thing(site->plan, row);
}

/* Another day of it, in which something asked for what it keeps off. */
static void tell_day(struct cup_pass *pass, cup_index row)
{
    struct cup_choice_state *state = &site_of(pass)->choices[row];
    site_of(pass)->pass->unkept = true;
    if (!cup_choice_is(state, CUP_CHOICE_ASKED))
        return;
    cup_set_bits(&state->flags, CUP_CHOICE_ASKED, false);
    cup_set_bits(&state->flags, CUP_CHOICE_TOLD, true);
    cup_in_because_of(pass,
                      row == row_of_site(site_of(pass)->plan)
                          ? CUP_REASON_STILL_HELD
                          : CUP_REASON_STILL_OFF,
                      CUP_NONE, state->days, 0);
    cup_in_tell(pass, thing_of(site_of(pass), row), CUP_KIND_ALERT);
}

/* What came or went of a duty; a pump and the site tell that themselves. */
static void tell_new(struct cup_pass *pass, cup_index row)
{
    const struct cup_site *site = site_of(pass);
    struct cup_choice_state *state = &site->choices[row];
    const bool stands = cup_choice_is(state, CUP_CHOICE_STANDS);
    if (cup_choice_is(state, CUP_CHOICE_NEW) && row >= site->plan->pump_count &&
        row < row_of_site(site->plan)) {
        if (stands)
            cup_in_choices_cause(pass, row, CUP_REASON_OFF, CUP_REASON_OFF_FOR,
                                 CUP_NONE);
        else
            cup_in_because(pass, CUP_REASON_DUTY_AUTO, CUP_NONE);
        cup_in_tell(pass, thing_of(site, row), CUP_KIND_MODE);
    }
    if (cup_choice_is(state, CUP_CHOICE_SKIPS))
        cup_in_tell_note(pass, thing_of(site, row), CUP_KIND_MODE,
                         CUP_REASON_SKIP);
    if (!stands && cup_choice_is(state, CUP_CHOICE_TOLD)) {
        cup_in_because(pass,
                       row == row_of_site(site->plan) ? CUP_REASON_STILL_HELD
                                                      : CUP_REASON_STILL_OFF,
                       CUP_NONE);
        cup_in_tell(pass, thing_of(site, row), CUP_KIND_OVER);
        cup_set_bits(&state->flags, CUP_CHOICE_TOLD, false);
    }
    cup_set_bits(&state->flags, CUP_CHOICE_NEW | CUP_CHOICE_SKIPS, false);
}

void cup_in_choices_step(struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    for (cup_index row = 0; row <= row_of_site(site->plan); row++) {
        struct cup_choice_state *state = &site->choices[row];
        if (!cup_choice_is(state, CHOSEN))
            continue;
        enum cup_choice_says says = cup_choice_step(state, pass->now);
        if (says == CUP_CHOICE_DAY)
            tell_day(pass, row);
        if (says == CUP_CHOICE_OVER)
            end_row(pass, row);
        tell_new(pass, row);
        cup_in_quiet_for(pass, cup_choice_wait(state, pass->now));
    }
    cup_in_choices_recount(site, site->pass->unkept);
}

void cup_in_choices_age(const struct cup_site *site, uint32_t off_ms)
{
    for (cup_index row = 0; row <= row_of_site(site->plan); row++)
        cup_choice_age(&site->choices[row], off_ms);
}

#endif
