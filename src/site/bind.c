/* Lays a plan's state out in the caller's block, and begins. */
#include <string.h>

#include "inside.h"

size_t cup_site_size(CUP_FLASH struct cup_plan *plan)
{
    size_t size = 0;
#define X(type, name, count, ...) size += (size_t)(count) * sizeof(type);
    CUP_TABLES(X)
#undef X
    return size;
}

static void *lay_part(unsigned char **next, size_t count, size_t size)
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
#define X(type, name, count, ...)                                              \
    site->name = lay_part(&next, (size_t)(count), sizeof(type));
    CUP_TABLES(X)
#undef X
    for (cup_index i = 0; i < plan->sensor_count; i++)
        cup_sensor_boot(&plan->sensors[i], &site->sensors[i], 0);
    return CUP_OK;
}

static void begin_pump(const struct cup_site *site, cup_index i,
                       uint32_t now_ms)
{
    CUP_FLASH struct cup_pump *plan = &site->plan->pumps[i];
    cup_pump_boot(&site->pumps[i], now_ms);
    (void)plan;
    CUP_WHERE(TRAVELS, {
        if (!plan->travel)
            return;
        cup_travel_boot(plan->travel, &site->travels[plan->travel_own], now_ms);
        cup_pump_set(&site->pumps[i], CUP_PUMP_IS_MOVING, true);
    })
}

/* A pump belongs to its first duty until another drives it. */
static void begin_duty(const struct cup_site *site, cup_index i,
                       uint32_t now_ms)
{
    CUP_FLASH struct cup_duty *duty = &site->plan->duties[i];
    site->pumps[duty->pump].duty = i;
    (void)now_ms;
    CUP_WHERE(TURNS, {
        if (duty->turn)
            cup_turn_boot(duty->turn, &site->turns[duty->turn_own], now_ms);
    })
}

void cup_in_bind_begin(const struct cup_site *site, uint32_t now_ms)
{
    struct cup_pass_state *pass = site->pass;
    CUP_FLASH struct cup_plan *plan = site->plan;
    cup_set_bits(&pass->flags, PASS_BEGUN, true);
    pass->seen_ms = now_ms;
    pass->clock_ms = now_ms;
    CUP_UNLESS(PACES, pass->asked_ms = now_ms - plan->sensors->every_ms;)
    struct cup_sensor_state *state = site->sensors;
    for (cup_index i = 0; i < plan->sensor_count; i++, state++)
        cup_sensor_boot(&plan->sensors[i], state, now_ms);
    CUP_WHERE(SPANS, cup_in_spans_begin(site, now_ms);)
    for (cup_index i = 0; i < plan->pump_count; i++)
        begin_pump(site, i, now_ms);
    for (cup_index i = 0; CUP_USES_PER_DAYS && i < plan->per_days; i++)
        cup_per_day_begin(&site->per_days[i], now_ms, 0, false);
    for (cup_index i = plan->duty_count; i > 0; i--)
        begin_duty(site, (cup_index)(i - 1), now_ms);
    CUP_WHERE(SETTINGS, {
        for (cup_index i = 0; i < plan->setting_count; i++)
            site->settings[i] = cup_setting_written(plan, i);
    })
}
