/* What the levels of tanks may be: their spans hear what their sensors said,
 * and what pumps moved meanwhile. */
#include "inside.h"

#if CUP_USES_SPANS

static int32_t level_of(CUP_FLASH struct cup_tank *tank,
                        const struct cup_sensor_use *use)
{
    return cup_tank_fill_pct100(tank,
                                cup_sensor_convert(use, use->state->latest));
}

#if CUP_USES_AIR
/* How far an echo is off where the air is 15 C from what it is taken for: 9.09
 * m/s of 343.4 at 20 C (see echo.h), in 65536ths. */
#define AIR_PART 1735

/* Whether the thermometer that corrects an echo is lost, or was never read. */
static bool is_without_air(const struct cup_site *site,
                           CUP_FLASH struct cup_sensor *sensor)
{
    return sensor->air != CUP_NONE &&
           !cup_usable(site->sensors[sensor->air].reading) &&
           site->sensors[sensor->air].reading.quality == CUP_QUALITY_LOST;
}

/* Whether a span is wide by its air alone. */
static bool is_by_air(const struct cup_site *site, cup_index thing,
                      const struct cup_span_state *state)
{
    cup_index sensor = cup_in_levels_sensor(site, thing);
    return !cup_span_is(state, CUP_SPAN_LEAPT) &&
           is_without_air(site, &site->plan->sensors[sensor]);
}

/* Then the level is what it may be at 15 C around what the air was last. */
static void widen_by_air(CUP_FLASH struct cup_tank *tank,
                         struct cup_span_state *state, cup_value distance)
{
    cup_value off = (cup_value)(((int64_t)distance * AIR_PART) >> 16);
    cup_span_widen(state, cup_tank_fill_pct100(tank, distance + off),
                   cup_tank_fill_pct100(tank, distance - off));
}
#endif

/* Hands a sample in, as the kind that it is. */
static void hear_span(const struct cup_site *site,
                      CUP_FLASH struct cup_tank *tank,
                      struct cup_span_state *state, cup_index i,
                      const struct cup_sensor_use *use, uint32_t now)
{
    if (CUP_IF(CHECKS, cup_is_full(use->state->reading))) {
        cup_span_brim(tank->span, state, now);
        return;
    }
    struct cup_span_sample sample = {.level = level_of(tank, use),
                                     .reading = site->tanks[i].value,
                                     .shape = use->sensor->window,
                                     .window = &use->state->window,
                                     .order = use->order};
    cup_span_hear(tank->span, state, now, &sample);
    CUP_WHERE(AIR, {
        if (is_without_air(site, use->sensor))
            widen_by_air(tank, state, use->state->reading.value);
    })
}

bool cup_in_spans_hear(const struct cup_site *site, cup_index i,
                       const struct cup_sensor_use *use, uint32_t now)
{
    CUP_FLASH struct cup_tank *tank = &site->plan->tanks[i];
    if (!tank->span)
        return false;
    struct cup_span_state *state = &site->spans[tank->span_own];
    const int32_t low = state->low;
    const int32_t high = state->high;
    const unsigned was = state->flags;
    if (use->state->reading.quality == CUP_QUALITY_GOOD)
        hear_span(site, tank, state, i, use, now);
    else
        cup_span_miss(state, now);
    bool wide = low != high || cup_span_is_wide(state);
    return state->flags != was ||
           (wide && (low != state->low || high != state->high));
}

/* Why the span of this tank is wide. */
static uint8_t why_wide(const struct cup_site *site, cup_index thing)
{
    const struct cup_span_state *state = cup_in_spans_of(site, thing);
    uint8_t reason = cup_site_reading(site, thing).reason;
    if (!cup_span_is(state, CUP_SPAN_KNOWN))
        return CUP_REASON_NO_READING;
    if (!cup_span_is(state, CUP_SPAN_LEAPT) && reason != CUP_REASON_NONE)
        return reason;
    return CUP_IF_ELSE(AIR, is_by_air(site, thing, state), false)
               ? CUP_REASON_READING_LOST
               : CUP_REASON_LEAPT;
}

void cup_in_spans_switch(const struct cup_site *site,
                         CUP_FLASH struct cup_pump *pump, bool on)
{
    CUP_FLASH struct cup_guard *guard = pump->guards;
    for (uint8_t left = pump->guard_count; left > 0; left--, guard++) {
        if (guard->kind >= CUP_GUARD_TANKS)
            continue;
        CUP_FLASH struct cup_tank *tank = cup_tank_of(site->plan, guard->about);
        if (tank->span)
            cup_span_switch(
                tank->span, &site->spans[tank->span_own], site->pass->clock_ms,
                guard->kind == CUP_GUARD_DESTINATION, guard->rate, on);
    }
}

/* A level that should fall is looked at so often. */
#define DRAWN_MS 10000

/* The span of the tank that a guard lets a pump draw from; null for none. */
static struct cup_span_state *drawn_from(const struct cup_site *site,
                                         CUP_FLASH struct cup_guard *guard)
{
    return guard->kind == CUP_GUARD_SOURCE ? cup_in_spans_of(site, guard->about)
                                           : NULL;
}

uint8_t cup_in_spans_drawn(struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    CUP_FLASH struct cup_guard *guard = pass->pump_plan->guards;
    for (uint8_t left = pass->pump_plan->guard_count; left > 0;
         left--, guard++) {
        const struct cup_span_state *state = drawn_from(site, guard);
        if (!state)
            continue;
        CUP_FLASH struct cup_tank *tank = cup_tank_of(site->plan, guard->about);
        int32_t owes = cup_span_owes(tank->span, state, pass->now);
        cup_in_quiet_for(pass, DRAWN_MS);
        if (owes > 2 * tank->span->leap)
            return cup_in_because_values(pass, CUP_REASON_NOT_DRAWN,
                                         guard->about, owes,
                                         2 * tank->span->leap);
    }
    return CUP_REASON_NONE;
}

void cup_in_spans_clear(const struct cup_site *site, cup_index pump)
{
    CUP_FLASH struct cup_pump *plan = &site->plan->pumps[pump];
    for (uint8_t i = 0; i < plan->guard_count; i++) {
        struct cup_span_state *state = drawn_from(site, &plan->guards[i]);
        if (state)
            state->owed = 0;
    }
}

void cup_in_spans_lose(const struct cup_site *site, cup_index sensor)
{
    CUP_FLASH struct cup_tank *tank = site->plan->tanks;
    for (cup_index i = 0; i < site->plan->tank_count; i++, tank++)
        if (tank->sensor == sensor && tank->span)
            cup_span_lose(&site->spans[tank->span_own]);
}

void cup_in_spans_begin(const struct cup_site *site, uint32_t now_ms)
{
    for (cup_index i = 0; i < site->plan->spans; i++)
        cup_span_boot(&site->spans[i], now_ms);
}

void cup_in_spans_see(const struct cup_site *site, uint32_t now,
                      const struct cup_word *word)
{
    CUP_FLASH struct cup_tank *tank = &site->plan->tanks[word->target];
    struct cup_span_state *state = &site->spans[tank->span_own];
    cup_span_believe(state, now, (int32_t)word->number,
                     CUP_SPAN_PERSON | CUP_SPAN_SEEN |
                         (state->flags & CUP_SPAN_HELP));
    state->was = site->tanks[word->target].value;
    if (CUP_USES_JOURNAL)
        cup_set_bits(&site->pass->flags, PASS_AT_ONCE, true);
}

/* Who was asked to look in need not: it can be seen again, or was. */
static void tell_seen_again(struct cup_pass *pass, cup_index thing,
                            struct cup_span_state *state)
{
    if (cup_span_is(state, CUP_SPAN_BRIM) && !cup_span_is(state, CUP_SPAN_SEEN))
        return;
    cup_set_bits(&state->flags, CUP_SPAN_HELP, false);
    cup_in_because(pass, CUP_REASON_LOOK_IN, thing);
    cup_in_tell(pass, thing, CUP_KIND_OVER);
}

/* What somebody saw is told, a leap when it begins, and when the other level is
 * believed. */
static void tell_span(struct cup_pass *pass, cup_index thing,
                      struct cup_span_state *state)
{
    if (cup_span_is(state, CUP_SPAN_SEEN)) {
        cup_set_bits(&state->flags, CUP_SPAN_SEEN, false);
        cup_in_because_values(pass, CUP_REASON_SEEN, thing, state->belief,
                              state->was);
        cup_in_tell(pass, thing, CUP_KIND_SETTING);
        return;
    }
    bool believed = cup_span_is(state, CUP_SPAN_NEWS);
    cup_set_bits(&state->flags, CUP_SPAN_NEWS | CUP_SPAN_UNTOLD, false);
    cup_in_because_values(pass,
                          believed ? CUP_REASON_BELIEVED : CUP_REASON_LEAPT,
                          thing, believed ? state->belief : state->far,
                          believed ? state->was : state->belief);
    cup_in_tell(pass, thing, CUP_KIND_QUALITY);
}

void cup_in_spans_tell(struct cup_pass *pass)
{
    CUP_FLASH struct cup_plan *plan = site_of(pass)->plan;
    for (cup_index i = 0; i < plan->tank_count; i++) {
        cup_index thing = cup_tank_thing(plan, i);
        struct cup_span_state *state = cup_in_spans_of(site_of(pass), thing);
        if (state && cup_span_is(state, CUP_SPAN_HELP))
            tell_seen_again(pass, thing, state);
        if (state &&
            cup_span_is(state, CUP_SPAN_NEWS | CUP_SPAN_UNTOLD | CUP_SPAN_SEEN))
            tell_span(pass, thing, state);
    }
}

#endif

uint8_t cup_site_span(const struct cup_site *site, cup_index thing,
                      cup_value *low, cup_value *high)
{
    bool read = thing < cup_pump_thing(site->plan, 0);
    *low = read ? cup_in_levels_end_value(site, thing, CUP_END_LOW) : 0;
    *high = read ? cup_in_levels_end_value(site, thing, CUP_END_HIGH) : 0;
    return *low == *high
               ? CUP_REASON_NONE
               : CUP_IF_ELSE(SPANS, why_wide(site, thing), CUP_REASON_NONE);
}
