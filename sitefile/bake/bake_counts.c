/* Marks as means of counts. Whatever a thing shows rises or falls with the mean
 * of its sensor, so that a value is past its mark just when the mean is past a
 * certain one. That one is looked for here, with the very curves that would
 * work the value out, and among the means that there can be. */
#include "fields.h"

#define PARTS CUP_MEAN_PARTS
/* Past every mean, in sixtieths of a count. */
#define END (UINT16_MAX * PARTS + 1)

/* How a thing follows its sensor. */
struct scale {
    const struct cup_sensor *sensor;
    const struct cup_tank *tank; /* null: it is the sensor itself */
};

static struct scale scale_of(const struct cup_plan *plan, cup_index thing)
{
    struct scale scale = {&plan->sensors[cup_thing_sensor(plan, thing)], NULL};
    if (thing >= plan->sensor_count)
        scale.tank = cup_tank_of(plan, thing);
    return scale;
}

/* The fewest samples that have such a mean. */
static uint8_t samples_of(int32_t mean)
{
    uint8_t count = 1;
    while (mean * count % PARTS != 0)
        count++;
    return count;
}

static int32_t value_at(const struct scale *scale, int32_t mean)
{
    uint8_t count = samples_of(mean);
    int32_t value = cup_curve_at(
        scale->sensor->curve,
        (struct cup_mean){(uint32_t)(mean * count / PARTS), count});
    return scale->tank ? cup_tank_fill_pct100(scale->tank, value) : value;
}

static int32_t lowest_of(const struct scale *scale)
{
    return scale->sensor->lowest * PARTS;
}

static int32_t highest_of(const struct scale *scale)
{
    return scale->sensor->highest * PARTS;
}

static bool falls(const struct scale *scale)
{
    return value_at(scale, highest_of(scale)) <
           value_at(scale, lowest_of(scale));
}

bool bake_falls(const struct cup_plan *plan, cup_index thing)
{
    struct scale scale = scale_of(plan, thing);
    return falls(&scale);
}

static bool is_past(const struct scale *scale, int32_t mean, int32_t value,
                    bool above)
{
    int32_t at = value_at(scale, mean);
    return above ? at > value : at < value;
}

/* The first mean of all that is past a value, or the first that is not; END
 * when there is none. */
static int32_t first_mean(const struct scale *scale, int32_t value, bool above,
                          bool past)
{
    int32_t low = lowest_of(scale) / PARTS;
    int32_t high = highest_of(scale) / PARTS;
    if (is_past(scale, high * PARTS, value, above) != past)
        return END;
    while (low < high) { /* whole counts */
        int32_t middle = (low + high) / 2;
        if (is_past(scale, middle * PARTS, value, above) == past)
            high = middle;
        else
            low = middle + 1;
    }
    int32_t first = high * PARTS;
    for (int32_t mean = first - 1;
         mean > first - PARTS && mean > lowest_of(scale); mean--)
        if (samples_of(mean) <= CUP_MEAN_EXACT &&
            is_past(scale, mean, value, above) == past)
            first = mean;
    return first;
}

/* What is compared by < must lie before what is compared by > though neither
 * can be reached, so there are two numbers on either side. */
int32_t bake_count(const struct cup_plan *plan, cup_index thing, int32_t value,
                   bool above)
{
    struct scale scale = scale_of(plan, thing);
    bool from_there_on = above != falls(&scale);
    int32_t first = first_mean(&scale, value, above, from_there_on);
    if (first == END)
        return from_there_on ? END + 1 : END;
    if (first == lowest_of(&scale))
        return from_there_on ? -1 : -2;
    return from_there_on ? first - 1 : first;
}

bool bake_pair(const struct cup_plan *plan, cup_index thing, int32_t start,
               int32_t stop, struct counts *counts)
{
    *counts = (struct counts){0, 0};
    if (start == stop || thing == CUP_NONE)
        return true; /* it has no marks */
    counts->start = bake_count(plan, thing, start, start > stop);
    counts->stop = bake_count(plan, thing, stop, start < stop);
    bool raises = (start < stop) != bake_falls(plan, thing);
    return raises ? counts->start < counts->stop : counts->start > counts->stop;
}

/* Whether each of its pieces goes the same way. */
static bool goes_one_way(const struct cup_curve *curve)
{
    bool up = false;
    bool down = false;
    for (uint8_t i = 1; i < curve->count; i++) {
        up |= curve->knots[i].y > curve->knots[i - 1].y;
        down |= curve->knots[i].y < curve->knots[i - 1].y;
    }
    return !up || !down;
}

static bool pair_counts(const struct cup_plan *plan, cup_index thing,
                        int32_t start, int32_t stop)
{
    struct counts counts;
    return bake_pair(plan, thing, start, stop, &counts);
}

static bool latch_counts(const struct cup_plan *plan, cup_index thing,
                         const struct cup_latch *latch)
{
    return pair_counts(plan, thing, latch->start, latch->stop);
}

static bool pump_counts(const struct cup_plan *plan,
                        const struct cup_pump *pump)
{
    for (uint8_t g = 0; g < pump->guard_count; g++)
        if (!pair_counts(plan, pump->guards[g].about, pump->guards[g].mark,
                         pump->guards[g].clear))
            return false;
    return true;
}

static bool duty_counts(const struct cup_plan *plan,
                        const struct cup_duty *duty)
{
    return latch_counts(plan, duty->keep, &duty->latch) &&
           (!duty->also ||
            latch_counts(plan, duty->also->about, &duty->also->latch));
}

static cup_index crooked_thing(const struct cup_plan *plan)
{
    for (cup_index i = 0; i < plan->sensor_count; i++)
        if (!goes_one_way(plan->sensors[i].curve))
            return i;
    for (cup_index i = 0; i < plan->tank_count; i++)
        if (!goes_one_way(plan->tanks[i].fill))
            return cup_tank_thing(plan, i);
    return CUP_NONE;
}

cup_index bake_uncounted_thing(const struct cup_plan *plan)
{
    cup_index crooked = crooked_thing(plan);
    if (crooked != CUP_NONE)
        return crooked;
    for (cup_index i = 0; i < plan->pump_count; i++)
        if (!pump_counts(plan, &plan->pumps[i]))
            return cup_pump_thing(plan, i);
    for (cup_index i = 0; i < plan->duty_count; i++)
        if (!duty_counts(plan, &plan->duties[i]))
            return cup_duty_thing(plan, i);
    for (cup_index i = 0; i < plan->day_count; i++)
        if (!latch_counts(plan, plan->days[i].light, &plan->days[i].latch))
            return cup_day_thing(plan, i);
    for (cup_index i = 0; i < plan->alert_count; i++)
        if (!latch_counts(plan, plan->alerts[i].about, &plan->alerts[i].latch))
            return cup_alert_thing(plan, i);
    return CUP_NONE;
}

struct counts bake_counts(const struct bake *bake, cup_index thing,
                          int32_t start, int32_t stop)
{
    struct counts counts = {0, 0};
    if (!bake->uses[CUP_BLOCK_VALUES])
        (void)bake_pair(bake->plan, thing, start, stop, &counts);
    return counts;
}
