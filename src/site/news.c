/* What was heard becomes levels, and news when it may decide something.
 *
 * Each look at a thing notes its slack: how far it is from the nearest mark
 * that anything looks at. While it moves by less than that, every comparison
 * would come out as before, and there is no need of a pass. */
#include "inside.h"

/* Slack */

void cup_narrow_marks(const struct cup_site *site, cup_index thing,
                      cup_mark value, cup_mark a, cup_mark b)
{
    cup_narrow_to(site, thing,
                  cup_least(cup_gap(CUP_COUNTS(value), CUP_COUNTS(a)),
                            cup_gap(CUP_COUNTS(value), CUP_COUNTS(b))));
}

void cup_narrow_latch(const struct cup_site *site, cup_index thing,
                      cup_mark value, cup_mark shown,
                      CUP_NUMBERS struct cup_latch *latch,
                      const struct cup_latch_state *state)
{
    if (state->samples > 0) /* each sample counts */
        cup_narrow_to(site, thing, 0);
    cup_narrow_marks(site, thing, value, latch->start, latch->stop);
    if (CUP_USES_CHECKS && CUP_COUNTS(shown) != CUP_COUNTS(value))
        cup_narrow_marks(site, thing, shown, latch->start, latch->stop);
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
/* Two floats that contradict each other say nothing: the upper is lifted and
 * the lower is not. */
static bool contradict(struct cup_reading low, struct cup_reading high)
{
    return cup_usable(low) && cup_usable(high) && high.value > 0 &&
           low.value == 0;
}

bool cup_floats_differ(const struct cup_site *site, cup_index thing)
{
    if (thing < site->plan->sensor_count)
        return false;
    CUP_FLASH struct cup_tank *tank = cup_tank_of(site->plan, thing);
    return tank->form == CUP_TANK_FLOATS && tank->high != CUP_NONE &&
           contradict(site->sensors[tank->sensor].reading,
                      site->sensors[tank->high].reading);
}

struct cup_reading cup_floats_reading(const struct cup_site *site,
                                      CUP_FLASH struct cup_tank *tank)
{
    struct cup_reading low = site->sensors[tank->sensor].reading;
    if (tank->high == CUP_NONE)
        return low;
    struct cup_reading high = site->sensors[tank->high].reading;
    struct cup_reading worse = high.quality > low.quality ? high : low;
    worse.flags = (low.flags & high.flags) |
                  ((low.flags | high.flags) & CUP_READING_LOST);
    if (contradict(low, high)) {
        worse.quality = CUP_QUALITY_LOST;
        worse.reason = CUP_REASON_FAULT;
        worse.flags = CUP_READING_LOST;
    }
    return worse;
}

CUP_RARE static void fill_by_floats(const struct cup_site *site,
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

cup_value cup_value_of(const struct cup_site *site, cup_index thing)
{
#if CUP_USES_VALUES
    return cup_level_of(site, thing);
#else
    CUP_FLASH struct cup_plan *plan = site->plan;
    cup_index sensor = cup_sensor_of(site, thing);
    cup_value value =
        cup_sensor_value(&plan->sensors[sensor], &site->sensors[sensor]);
    if (thing < plan->sensor_count)
        return value;
    return cup_tank_fill_pct100(cup_tank_of(plan, thing), value);
#endif
}

#if CUP_USES_MEANS
/* A stored sample as a level of what its sensor tells of. */
static cup_mark level_from(const struct cup_site *site, cup_index thing,
                           const struct cup_sensor_use *use, uint16_t stored)
{
    cup_value value = cup_sensor_convert(use, stored);
    return thing < site->plan->sensor_count
               ? value
               : cup_tank_fill_pct100(cup_tank_of(site->plan, thing), value);
}

/* A mean may be past the mark by one sample alone: so must be the second best
 * of its samples, whichever way the curve goes. */
CUP_RARE static bool second_is_clear(const struct cup_site *site,
                                     CUP_FLASH struct cup_guard *guard,
                                     cup_index sensor)
{
    struct cup_sensor_use use = cup_use_of(site, sensor);
    const uint16_t *last = use.cells + use.state->window.count - 1;
    cup_mark one = level_from(site, guard->about, &use, use.cells[1]);
    cup_mark two = level_from(site, guard->about, &use, last[-1]);
    return cup_is_beyond(&guard->clear, &guard->mark, one) ||
           cup_is_beyond(&guard->clear, &guard->mark, two);
}
#endif

bool cup_is_sure(const struct cup_site *site, CUP_FLASH struct cup_guard *guard)
{
    cup_index sensor = cup_sensor_of(site, guard->about);
    struct cup_window shape = site->plan->sensors[sensor].window;
    const struct cup_sensor_state *state = &site->sensors[sensor];
    if (shape.size < 3 || /* or full, which was said twice */
        CUP_IF(CHECKS, cup_is_full(state->reading)))
        return true;
    if (state->window.count < 3)
        return false;
    return !CUP_IF(MEANS, shape.trim == 0) ||
           CUP_IF(MEANS, second_is_clear(site, guard, sensor));
}

#if CUP_USES_VALUES
/* Nearer than the ranger can see, again and again: the tank is full. */
CUP_APART static void fill_tank(const struct cup_site *site,
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
    cup_value shown = cup_shown_of(site, tank->sensor);
    if (shown != sensor->reading.value)
        state->shown = cup_tank_fill_pct100(tank, shown);
}

/* News */

static bool tank_is_news(const struct cup_site *site, cup_index i)
{
    CUP_FLASH struct cup_tank *tank = &site->plan->tanks[i];
    struct cup_tank_state *state = &site->tanks[i];
    cup_value value = state->value;
    cup_value shown = state->shown;
#if CUP_USES_FLOATS
    if (tank->form == CUP_TANK_FLOATS) {
        fill_by_floats(site, tank, state);
        return true;
    }
#endif
    fill_tank(site, tank, state);
    if (!CUP_USES_SLACK)
        return true;
    uint32_t far = cup_gap(value, state->value);
    if (CUP_USES_CHECKS && shown != value) /* it is held steady */
        far = cup_most(far, cup_gap(shown, state->shown));
    return has_used(&site->slack[cup_tank_thing(site->plan, i)], far);
}

/* Fills the tanks that a sensor tells of; true when one of them is news. */
static bool tell_tanks(const struct cup_site *site, cup_index sensor)
{
    bool news = false;
    CUP_FLASH struct cup_tank *tank = site->plan->tanks;
    for (cup_index i = 0; i < site->plan->tank_count; i++, tank++)
        if (tank->sensor == sensor ||
            CUP_IF(FLOATS,
                   tank->form == CUP_TANK_FLOATS && tank->high == sensor))
            news |= tank_is_news(site, i);
    return news;
}

#endif

struct cup_before cup_before_hearing(const struct cup_sensor_use *use)
{
    struct cup_before was = {.value = use->state->reading.value,
                             .flags = use->state->reading.flags};
#if CUP_USES_CHECKS
    if (use->checks)
        was.shown = use->checks->shown;
#endif
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
#if CUP_USES_CHECKS
    if (use->checks)
        far =
            cup_most(far, cup_gap(CUP_COUNTS(was->shown), use->checks->shown));
#endif
    return has_used(&site->slack[sensor], far) ||
           (was->flags & (sure | CUP_READING_LOST)) != sure;
}

void cup_weigh(const struct cup_site *site, cup_index sensor,
               const struct cup_sensor_use *use, const struct cup_before *was)
{
    struct cup_held *now = &use->state->reading;
    if (!(now->flags & CUP_READING_NEW))
        return; /* a rejected sample says nothing */
    bool news = false;
    CUP_WHERE(VALUES, news = tell_tanks(site, sensor);)
    if (!CUP_USES_SLACK || sensor_is_news(site, sensor, use, was))
        news = true;
    if (news)
        cup_set_bits(&site->pass->flags, PASS_TOUCHED, true);
    else if (!(was->flags & CUP_READING_NEW))
        now->flags &= (uint8_t)~CUP_READING_NEW;
}
