/* Which sensors are due, and taking in what they said. */
#include "inside.h"

static bool is_due(CUP_FLASH struct cup_sensor *sensor,
                   struct cup_sensor_state *state, uint32_t now, uint32_t *next)
{
    uint32_t left = 0;
    if (state->reading.flags & CUP_READING_ASKED)
        left = cup_left(now, state->asked_ms, sensor->every_ms);
    if (left > 0) {
        *next = cup_least(*next, left);
        return false;
    }
    state->reading.flags |= CUP_READING_ASKED;
    state->asked_ms = now;
    *next = cup_least(*next, sensor->every_ms);
    return true;
}

bool cup_site_ask(const struct cup_site *site, uint32_t now_ms,
                  cup_index *sensor)
{
    struct cup_pass_state *pass = site->pass;
    if (!(pass->flags & PASS_BEGUN))
        cup_site_begin(site, now_ms);
    uint32_t now = inner_time(pass, now_ms);
    if (cup_left(now, pass->asking_ms, pass->unasked_ms) > 0)
        return false;
    uint32_t next = pass->cursor ? pass->quiet_ask_ms : QUIET_MAX;
    while (pass->cursor < site->plan->sensor_count) {
        cup_index i = (cup_index)pass->cursor++;
        if (!is_due(&site->plan->sensors[i], &site->sensors[i], now, &next))
            continue;
        pass->quiet_ask_ms = next;
        *sensor = i;
        return true;
    }
    pass->cursor = 0;
    pass->asking_ms = now;
    pass->unasked_ms = next;
    return false;
}

void cup_site_check_late(const struct cup_site *site, uint32_t now_ms)
{
    struct cup_pass_state *pass = site->pass;
    uint32_t step = now_ms - pass->seen_ms;
    if (!(pass->flags & PASS_RUNNING) || (pass->flags & PASS_LATE) ||
        step <= site->plan->late_ms || step >= CUP_TIME_BACK)
        return;
    pass->flags |= PASS_LATE;
    for (cup_index i = 0; i < site->plan->sensor_count; i++)
        cup_sensor_stale(&site->sensors[i]);
}

void cup_site_hear(const struct cup_site *site, cup_index sensor,
                   uint32_t now_ms, struct cup_sample sample)
{
    struct cup_pass_state *pass = site->pass;
    if (sensor >= site->plan->sensor_count)
        return;
    if (!(pass->flags & PASS_BEGUN))
        cup_site_begin(site, now_ms);
    if (pass->flags & PASS_RUNNING)
        cup_site_check_late(site, now_ms);
    pass->flags |= PASS_TOUCHED;
    CUP_FLASH struct cup_sensor *plan = &site->plan->sensors[sensor];
    cup_sensor_hear(plan, &site->sensors[sensor], site->cells + plan->cells,
                    inner_time(pass, now_ms), sample);
}
