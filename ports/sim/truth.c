/* What a site would read if its sensors were perfect. */
#include <string.h>

#include "cuplatch/say.h"
#include "sim.h"

#define CELLS_MOST UINT8_MAX

/* One true sample through the sensor's own conversion. */
static bool sensor_truth(const struct garden *garden,
                         const struct cup_plan *plan, cup_index sensor,
                         cup_value *value)
{
    uint16_t cells[CELLS_MOST];
    uint8_t order[CELLS_MOST];
    struct cup_sensor_state state;
    struct cup_tally_state tally;
    struct cup_sensor bare = plan->sensors[sensor]; /* one sample is enough */
    struct cup_sensor_use use = {.sensor = &bare,
                                 .state = &state,
                                 .tally = &tally,
                                 .cells = cells,
                                 .order = order};
    int of = garden_sensor(garden, cup_thing_name(plan, sensor));
    if (of < 0 || bare.several || bare.form == CUP_FORM_PULSES)
        return false;
    bare.checks = NULL;
    memset(&state, 0, sizeof(state));
    memset(&tally, 0, sizeof(tally));
    use.air_cdeg = (int32_t)(garden_sky(garden).air * 100);
    cup_sensor_boot(use.sensor, &state, 0);
    cup_sensor_hear(&use, 1,
                    (struct cup_sample){.raw = garden_true_raw(garden, of)});
    if (!cup_usable(state.reading))
        return false;
    *value = cup_sensor_value(use.sensor, &state);
    return true;
}

bool cup_sim_truth(const struct garden *garden, const struct cup_plan *plan,
                   cup_index thing, cup_value *value)
{
    if (thing < plan->sensor_count)
        return sensor_truth(garden, plan, thing, value);
    const struct cup_tank *tank = cup_tank_of(plan, thing);
    if (tank->form == CUP_TANK_FLOATS || tank->sensor == CUP_NONE ||
        !sensor_truth(garden, plan, tank->sensor, value))
        return false;
    *value = cup_tank_fill_pct100(tank, *value);
    return true;
}
