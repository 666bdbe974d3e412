/* What was heard becomes levels, and news when it may decide something.
 *
 * Each look at a thing notes its slack: how far it is from the nearest mark
 * that anything looks at. While it moves by less than that, every comparison
 * would come out as before, and there is no need of a pass. */
#include "inside.h"

/* Slack */

void cup_in_weigh_marks(const struct cup_site *site, cup_index thing,
                        cup_mark value, cup_mark a, cup_mark b)
{
    cup_in_weigh_to(site, thing,
                    cup_least(cup_gap(CUP_COUNTS(value), CUP_COUNTS(a)),
                              cup_gap(CUP_COUNTS(value), CUP_COUNTS(b))));
}

void cup_in_weigh_latch(const struct cup_site *site, cup_index thing,
                        cup_mark value, cup_mark shown,
                        CUP_NUMBERS struct cup_latch *latch,
                        const struct cup_latch_state *state)
{
    if (state->samples > 0) /* each sample counts */
        cup_in_weigh_to(site, thing, 0);
    cup_in_weigh_marks(site, thing, value, latch->start, latch->stop);
    if (CUP_USES_CHECKS && CUP_COUNTS(shown) != CUP_COUNTS(value))
        cup_in_weigh_marks(site, thing, shown, latch->start, latch->stop);
}

/* Takes of a thing's slack as far as it moved; true when that is used up. */
static bool has_used(uint16_t *slack, uint32_t far)
{
    if (far >= *slack)
        return true;
    *slack = (uint16_t)(*slack - far);
    return false;
}

/* Tanks */

#if CUP_USES_FLOATS
static void fill_by_floats(const struct cup_site *site,
                           CUP_FLASH struct cup_tank *tank,
                           struct cup_tank_state *state)
{
    state->value =
        site->sensors[tank->sensor].reading.value > 0 ? tank->low_pct100 : 0;
    if (tank->high != CUP_NONE && site->sensors[tank->high].reading.value > 0)
        state->value = tank->high_pct100;
    state->shown = state->value;
}
#endif

#if CUP_USES_VALUES
/* Nearer than the ranger can see, again and again: the tank is full. */
static void fill_tank(const struct cup_site *site,
                      CUP_FLASH struct cup_tank *tank,
                      struct cup_tank_state *state)
{
    const struct cup_sensor_state *sensor = &site->sensors[tank->sensor];
    bool near = CUP_IF(CHECKS, cup_is_full(sensor->reading));
    state->value = near ? CUP_TANK_FULL
                        : cup_tank_fill_pct100(tank, sensor->reading.value);
    state->shown = state->value;
    if (!CUP_IF(CHECKS, site->plan->checks > 0) || near)
        return;
    cup_value shown = cup_in_levels_shown(site, tank->sensor);
    if (shown != sensor->reading.value)
        state->shown = cup_tank_fill_pct100(tank, shown);
}

/* News */

static bool tank_is_news(const struct cup_site *site, cup_index i,
                         const struct cup_sensor_use *use, uint32_t now)
{
    (void)use, (void)now;
    CUP_FLASH struct cup_tank *tank = &site->plan->tanks[i];
    struct cup_tank_state *state = &site->tanks[i];
    cup_value value = state->value;
    cup_value shown = state->shown;
    CUP_WHERE(FLOATS, {
        if (tank->form == CUP_TANK_FLOATS) {
            fill_by_floats(site, tank, state);
            return true;
        }
    })
    fill_tank(site, tank, state);
    bool spans = CUP_IF(SPANS, cup_in_spans_hear(site, i, use, now));
    if (!CUP_USES_SLACK || spans)
        return true;
    uint32_t far = cup_gap(value, state->value);
    if (CUP_USES_CHECKS && shown != value) /* it is held steady */
        far = cup_most(far, cup_gap(shown, state->shown));
    return has_used(&site->slack[cup_tank_thing(site->plan, i)], far);
}

/* Fills the tanks that a sensor tells of; true when one of them is news. */
static bool tell_tanks(const struct cup_site *site, cup_index sensor,
                       const struct cup_sensor_use *use, uint32_t now)
{
    bool news = false;
    CUP_FLASH struct cup_tank *tank = site->plan->tanks;
    for (cup_index i = 0; i < site->plan->tank_count; i++, tank++)
        if (tank->sensor == sensor ||
            CUP_IF(FLOATS,
                   tank->form == CUP_TANK_FLOATS && tank->high == sensor))
            news |= tank_is_news(site, i, use, now);
    return news;
}

#endif

#if CUP_USES_SPANS
/* A rejected sample says nothing, but that the level is held: what is drawn
 * meanwhile counts. */
static void miss_tanks(const struct cup_site *site, cup_index sensor,
                       const struct cup_sensor_use *use, uint32_t now)
{
    bool news = false;
    for (cup_index i = 0; i < site->plan->tank_count; i++)
        if (site->plan->tanks[i].sensor == sensor && site->plan->tanks[i].span)
            news |= cup_in_spans_hear(site, i, use, now);
    if (news)
        cup_set_bits(&site->pass->flags, PASS_TOUCHED, true);
}
#endif

struct cup_before cup_in_weigh_before(const struct cup_sensor_use *use,
                                      uint32_t now)
{
    (void)now;
    struct cup_before was = {.value = use->state->reading.value,
                             .flags = use->state->reading.flags};
    CUP_WHERE(CHECKS, if (use->checks) was.shown = use->checks->shown;)
    CUP_WHERE(SPANS, was.now = now;)
    return was;
}

/* Whether a sensor may decide something by what it said. */
static bool sensor_is_news(const struct cup_site *site, cup_index sensor,
                           const struct cup_sensor_use *use,
                           const struct cup_before *was)
{
    const unsigned sure = CUP_READING_KNOWN | CUP_READING_FRESH;
    uint32_t far =
        cup_gap(CUP_COUNTS(was->value), CUP_COUNTS(use->state->reading.value));
    CUP_WHERE(CHECKS, {
        if (use->checks)
            far = cup_most(far,
                           cup_gap(CUP_COUNTS(was->shown), use->checks->shown));
    })
    return has_used(&site->slack[sensor], far) ||
           (was->flags & (sure | CUP_READING_LOST)) != sure;
}

void cup_in_weigh_after(const struct cup_site *site, cup_index sensor,
                        const struct cup_sensor_use *use,
                        const struct cup_before *was)
{
    struct cup_held *now = &use->state->reading;
    if (now->quality != CUP_QUALITY_GOOD || !(now->flags & CUP_READING_NEW)) {
        CUP_WHERE(SPANS, miss_tanks(site, sensor, use, was->now);)
        return; /* a rejected sample says nothing */
    }
    bool news = false;
    CUP_WHERE(VALUES,
              news = tell_tanks(site, sensor, use, CUP_IF(SPANS, was->now));)
    if (!CUP_USES_SLACK || sensor_is_news(site, sensor, use, was))
        news = true;
    if (news)
        cup_set_bits(&site->pass->flags, PASS_TOUCHED, true);
    else if (!(was->flags & CUP_READING_NEW))
        now->flags &= (uint8_t)~CUP_READING_NEW;
}
