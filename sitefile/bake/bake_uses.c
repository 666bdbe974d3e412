/* Which blocks of the core a plan uses. */
#include <stdlib.h>
#include <string.h>

#include "baking.h"

static void look_at_sensors(const struct cup_plan *plan, bool *uses)
{
    for (cup_index i = 0; i < plan->sensor_count; i++) {
        const struct cup_sensor *sensor = &plan->sensors[i];
        uses[CUP_BLOCK_CHECKS] |= sensor->checks != NULL;
        uses[CUP_BLOCK_AIR] |= sensor->air != CUP_NONE;
        uses[CUP_BLOCK_SUPPLIES] |= sensor->supply != CUP_NONE;
        uses[CUP_BLOCK_QUIET] |= sensor->supply != CUP_NONE;
        uses[CUP_BLOCK_SOURCES] |= sensor->source != CUP_NONE;
        uses[CUP_BLOCK_OFFSETS] |= sensor->offset != 0;
        uses[CUP_BLOCK_NOTHINGS] |= sensor->nothing_count > 0;
        uses[CUP_BLOCK_SEVERAL] |= sensor->several != NULL;
        uses[CUP_BLOCK_PASCALS] |= sensor->unit == CUP_UNIT_PASCAL;
        uses[CUP_BLOCK_LOOPS] |= sensor->form == CUP_FORM_LOOP;
        uses[CUP_BLOCK_FRAMES] |= cup_form_is_bytes(sensor->form);
    }
    for (cup_index i = 0; i < plan->tank_count; i++) {
        uint8_t form = plan->tanks[i].form;
        uses[CUP_BLOCK_FLOATS] |= form == CUP_TANK_FLOATS;
        uses[CUP_BLOCK_PRESSURES] |=
            form != CUP_TANK_FLOATS && form != CUP_TANK_DISTANCE;
    }
}

/* A source whose sensor is smoothed, but drops no sample. */
static bool has_mean(const struct cup_plan *plan, const struct cup_pump *pump)
{
    for (uint8_t g = 0; g < pump->guard_count; g++) {
        cup_index sensor = cup_thing_sensor(plan, pump->guards[g].about);
        struct cup_window window = plan->sensors[sensor].window;
        if (pump->guards[g].kind == CUP_GUARD_SOURCE && window.size > 2 &&
            window.trim == 0)
            return true;
    }
    return false;
}

static void look_at_pumps(const struct cup_plan *plan, bool *uses)
{
    for (cup_index i = 0; i < plan->pump_count; i++) {
        const struct cup_pump *pump = &plan->pumps[i];
        uses[CUP_BLOCK_MEANS] |= has_mean(plan, pump);
        uses[CUP_BLOCK_PER_DAYS] |= pump->per_day != NULL;
        uses[CUP_BLOCK_PROOFS] |= pump->proof != NULL;
        uses[CUP_BLOCK_FLOWS] |=
            pump->proof && pump->proof->about < plan->sensor_count;
        uses[CUP_BLOCK_TRAVELS] |= pump->travel != NULL || pump->positional;
    }
    for (cup_index i = 0; i < plan->watch_count; i++) {
        const struct cup_watch *watch = &plan->watches[i];
        uses[CUP_BLOCK_VOLUMES] |= watch->kind == CUP_WATCH_VOLUME;
        uses[CUP_BLOCK_FLOWS] |= watch->way == CUP_WATCH_ABOVE;
    }
}

static void look_at_duties(const struct cup_plan *plan, bool *uses)
{
    for (cup_index i = 0; i < plan->duty_count; i++) {
        const struct cup_duty *duty = &plan->duties[i];
        uses[CUP_BLOCK_DOSES] |= duty->dose != NULL;
        uses[CUP_BLOCK_ALSOS] |= duty->also != NULL;
        uses[CUP_BLOCK_TURNS] |= duty->turn != NULL;
        uses[CUP_BLOCK_SPEEDS] |= duty->speed != NULL;
        uses[CUP_BLOCK_LINES] |= duty->line;
        uses[CUP_BLOCK_CLOCK] |= duty->from != duty->to;
        uses[CUP_BLOCK_CLOCK] |= duty->turn && duty->turn->at_count > 0;
    }
    for (cup_index i = 0; i < plan->day_count; i++)
        uses[CUP_BLOCK_CLOCK] |= plan->days[i].from != plan->days[i].to;
}

/* Whether sensors are asked at different times, or by way of others. */
static bool has_paces(const struct cup_plan *plan, const bool *uses)
{
    for (cup_index i = 1; i < plan->sensor_count; i++)
        if (plan->sensors[i].every_ms != plan->sensors[0].every_ms)
            return true;
    return plan->sensor_count == 0 || uses[CUP_BLOCK_FRAMES] ||
           uses[CUP_BLOCK_SOURCES] || uses[CUP_BLOCK_SUPPLIES] ||
           uses[CUP_BLOCK_QUIET] || uses[CUP_BLOCK_SEVERAL];
}

const char *bake_block_name(int block)
{
    static const char *const names[] = {
#define X(name) #name,
        CUP_BLOCKS(X)
#undef X
    };
    return names[block];
}

/* A board that people talk to does not believe a level at once; what its span
 * costs, there where names fit, fits. */
static bool has_spans(const struct bake *bake)
{
    return bake->kind == CUP_BAKE_ALL && bake->plan->spans > 0;
}

/* Whether something other than marks looks at values in every pass, or marks
 * can't be turned into counts. */
static bool needs_values(struct bake *bake)
{
    static const int looking[] = {
        CUP_BLOCK_AIR,      CUP_BLOCK_CHECKS,  CUP_BLOCK_FLOATS,
        CUP_BLOCK_LAMPS,    CUP_BLOCK_MEANS,   CUP_BLOCK_PRESSURES,
        CUP_BLOCK_SETTINGS, CUP_BLOCK_SEVERAL, CUP_BLOCK_SPEEDS};
    bake->uncounted = CUP_NONE;
    for (size_t i = 0; i < sizeof(looking) / sizeof(looking[0]); i++)
        if (bake->uses[looking[i]])
            return true;
    if (has_spans(bake))
        return true;
    if (bake_mean_most(bake->plan) > CUP_MEAN_EXACT)
        return true;
    bake->uncounted = bake_uncounted_thing(bake->plan);
    return bake->uncounted != CUP_NONE;
}

/* Whether some pump that has a longest run serves several duties. */
static bool shares_pumps(const struct cup_plan *plan)
{
    bool *serves = calloc(plan->pump_count + 1u, sizeof(*serves));
    bool shares = false;
    if (!serves)
        abort();
    for (cup_index i = 0; i < plan->duty_count; i++) {
        const cup_index pump = plan->duties[i].pump;
        shares |= serves[pump] && plan->pumps[pump].longest_ms > 0;
        serves[pump] = true;
    }
    free(serves);
    return shares;
}

void bake_blocks(struct bake *bake)
{
    bool *uses = bake->uses;
    const struct cup_plan *plan = bake->plan;
    const bool named = bake->named;
    const bool first[CUP_BLOCK_COUNT] = {
        [CUP_BLOCK_ALERTS] = plan->alert_count > 0,
        [CUP_BLOCK_AT_ONCE] = plan->at_once > 0 || plan->group_count > 0,
        [CUP_BLOCK_BUTTONS] = plan->button_count > 0,
        [CUP_BLOCK_CHOICES] = named,
        [CUP_BLOCK_CLOCK] = named,
        [CUP_BLOCK_DAYS] = plan->day_count > 0,
        [CUP_BLOCK_FAILS] = bake->kind != CUP_BAKE_BARE,
        [CUP_BLOCK_JOURNAL] = bake->kind != CUP_BAKE_BARE,
        [CUP_BLOCK_QUIET] = named,
        [CUP_BLOCK_LAMPS] = plan->bar_count + plan->signal_count > 0,
        [CUP_BLOCK_ONCE] = named && plan->repeat_ms > 0,
        [CUP_BLOCK_OWED] = named && plan->turns > 0,
        [CUP_BLOCK_ROUTES] = plan->routes > 0,
        [CUP_BLOCK_SETTINGS] = named && plan->setting_count > 0,
        [CUP_BLOCK_NAMES] = named,
        [CUP_BLOCK_STEERING] = bake->kind != CUP_BAKE_BARE,
        [CUP_BLOCK_TALLIES] = false,
        [CUP_BLOCK_TRIES] = named || shares_pumps(plan),
        [CUP_BLOCK_US] = plan->us,
        [CUP_BLOCK_WATCHES] = plan->watch_count > 0};
    memcpy(uses, first, sizeof(first));
    look_at_sensors(plan, uses);
    look_at_pumps(plan, uses);
    look_at_duties(plan, uses);
    uses[CUP_BLOCK_WIDE] = uses[CUP_BLOCK_PRESSURES] ||
                           uses[CUP_BLOCK_VOLUMES] ||
                           bake_wide_thing(plan) != CUP_NONE;
    uses[CUP_BLOCK_VALUES] = needs_values(bake);
    uses[CUP_BLOCK_SPANS] = uses[CUP_BLOCK_VALUES] && plan->spans > 0;
    uses[CUP_BLOCK_PACES] = has_paces(plan, uses);
}

uint8_t bake_mean_most(const struct cup_plan *plan)
{
    int most = 2; /* of a window that is filling */
    for (cup_index i = 0; i < plan->sensor_count; i++) {
        struct cup_window window = plan->sensors[i].window;
        if (window.size - 2 * window.trim > most)
            most = window.size - 2 * window.trim;
    }
    return (uint8_t)most;
}

void bake_uses(const struct bake *bake, FILE *out)
{
    for (int i = 0; i < CUP_BLOCK_COUNT; i++)
        if (!bake->uses[i])
            fprintf(out, "#define CUP_USES_%s 0\n", bake_block_name(i));
    fprintf(out, "#define CUP_MEAN_MOST %d\n", bake_mean_most(bake->plan));
}
