/* Stands in for the core, so that what the program around it takes can be
 * taken off. */
#include "cuplatch/port.h"

static CUP_FLASH struct cup_plan plan = {.pump_count = 3};
const struct cup_site baked = {.plan = &plan};

/* Called, as the core is. */
#define STUB __attribute__((noinline))

STUB enum cup_error cup_port_ask(struct cup_port *port,
                                 const struct cup_site *site, uint32_t now_ms)
{
    (void)site;
    return (enum cup_error)cup_port_sample(port, (cup_index)now_ms).raw;
}

STUB void cup_site_decide(const struct cup_site *site, uint32_t now_ms,
                          const struct cup_sink *sink)
{
    struct cup_event event = {.t_ms = now_ms};
    (void)site;
    sink->take(sink->self, &event);
}

STUB uint16_t cup_site_place(const struct cup_site *site, cup_index pump,
                             int *way)
{
    (void)site, (void)way;
    return pump;
}
