/* The loop of a site over a port, one turn of it. */
#include "cuplatch/port.h"

static void take(void *self, const struct cup_event *event)
{
    cup_port_tell(self, event);
}

enum cup_error cup_port_drive_all(struct cup_port *port,
                                  const struct cup_site *site)
{
    enum cup_error first = CUP_OK;
    for (cup_index i = 0; i < site->plan->pump_count; i++) {
        bool high = cup_site_runs(site, i) != site->plan->pumps[i].active_low;
        enum cup_error error = cup_port_drive(port, i, high);
        if (!first)
            first = error;
    }
    return first;
}

enum cup_error cup_port_pass(struct cup_port *port, const struct cup_site *site)
{
    struct cup_sink sink = {take, port};
    uint32_t now_ms = cup_port_now_ms(port);
    cup_index sensor;
    while (cup_site_ask(site, now_ms, &sensor))
        cup_site_hear(site, sensor, now_ms, cup_port_sample(port, sensor));
    cup_site_decide(site, now_ms, &sink);
    enum cup_error error = cup_port_drive_all(port, site);
    cup_port_feed(port);
    return error;
}
