/* Lays a plan's state out in the caller's block, and begins. */
#include <string.h>

#include "inside.h"

size_t cup_site_size(CUP_FLASH struct cup_plan *plan)
{
    return sizeof(struct cup_pass_state) +
           plan->sensor_count * sizeof(struct cup_sensor_state) +
           plan->tank_count * sizeof(struct cup_tank_state) +
           plan->pump_count * sizeof(struct cup_pump_state) +
           plan->duty_count * sizeof(struct cup_duty_state) +
           plan->source_count * sizeof(struct cup_source_state) +
           plan->checks * sizeof(struct cup_checks_state) +
           plan->proofs * sizeof(struct cup_proof_state) +
           plan->days * sizeof(struct cup_day_state) +
           plan->cells * sizeof(uint16_t) +
           plan->streams * sizeof(struct cup_stream_state) + plan->supplies +
           plan->channels;
}

static void *part(unsigned char **next, size_t count, size_t size)
{
    void *here = *next;
    *next += count * size;
    return here;
}

enum cup_error cup_site_bind(struct cup_site *site,
                             CUP_FLASH struct cup_plan *plan, void *block,
                             size_t size)
{
    if (plan->layout != CUP_LAYOUT)
        return CUP_ERROR_LAYOUT;
    if (size < cup_site_size(plan))
        return CUP_ERROR_SPACE;
    memset(block, 0, size);
    unsigned char *next = block;
    site->plan = plan;
    site->pass = part(&next, 1, sizeof(*site->pass));
    site->sensors = part(&next, plan->sensor_count, sizeof(*site->sensors));
    site->tanks = part(&next, plan->tank_count, sizeof(*site->tanks));
    site->pumps = part(&next, plan->pump_count, sizeof(*site->pumps));
    site->duties = part(&next, plan->duty_count, sizeof(*site->duties));
    site->sources = part(&next, plan->source_count, sizeof(*site->sources));
    site->checks = part(&next, plan->checks, sizeof(*site->checks));
    site->proofs = part(&next, plan->proofs, sizeof(*site->proofs));
    site->days = part(&next, plan->days, sizeof(*site->days));
    site->cells = part(&next, plan->cells, sizeof(*site->cells));
    site->streams = part(&next, plan->streams, sizeof(*site->streams));
    site->supplies = part(&next, plan->supplies, 1);
    site->channels = part(&next, plan->channels, 1);
    for (cup_index i = 0; i < plan->sensor_count; i++)
        cup_sensor_boot(&plan->sensors[i], &site->sensors[i], 0);
    return CUP_OK;
}

void cup_site_begin(const struct cup_site *site, uint32_t now_ms)
{
    struct cup_pass_state *pass = site->pass;
    pass->flags |= PASS_BEGUN;
    pass->seen_ms = now_ms;
    pass->clock_ms = now_ms;
    for (cup_index i = 0; i < site->plan->sensor_count; i++)
        cup_sensor_boot(&site->plan->sensors[i], &site->sensors[i], now_ms);
    for (cup_index i = 0; i < site->plan->pump_count; i++)
        cup_pump_boot(&site->pumps[i], now_ms);
    for (cup_index i = 0; i < site->plan->days; i++)
        cup_day_begin(&site->days[i], now_ms, 0, false);
    for (cup_index i = site->plan->duty_count; i > 0; i--)
        site->pumps[site->plan->duties[i - 1].pump].duty = (uint16_t)(i - 1);
}
