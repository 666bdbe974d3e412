/* Dispatches the functions of port.h through a port's table. */
#include "table.h"

uint32_t cup_port_now_ms(struct cup_port *port)
{
    return port->table->now_ms(port->self);
}

struct cup_sample cup_port_sample(struct cup_port *port, cup_index sensor)
{
    return port->table->sample(port->self, sensor);
}

enum cup_error cup_port_drive(struct cup_port *port, cup_index pump, bool high)
{
    return port->table->drive(port->self, pump, high);
}

void cup_port_tell(struct cup_port *port, const struct cup_event *event)
{
    if (port->table->tell)
        port->table->tell(port->self, event);
}

void cup_port_feed(struct cup_port *port)
{
    if (port->table->feed)
        port->table->feed(port->self);
}

enum cup_error cup_port_supply(struct cup_port *port, cup_index supply, bool on)
{
    return port->table->supply ? port->table->supply(port->self, supply, on)
                               : CUP_ERROR_PORT;
}

size_t cup_port_bytes(struct cup_port *port, cup_index thing, uint8_t *bytes,
                      size_t size)
{
    return port->table->bytes
               ? port->table->bytes(port->self, thing, bytes, size)
               : 0;
}

enum cup_error cup_port_move(struct cup_port *port, cup_index pump,
                             uint16_t place_pct100, int way)
{
    return port->table->move
               ? port->table->move(port->self, pump, place_pct100, way)
               : CUP_ERROR_PORT;
}

void cup_port_light(struct cup_port *port, cup_index lamp, uint8_t lit)
{
    if (port->table->light)
        port->table->light(port->self, lamp, lit);
}

bool cup_port_closed(struct cup_port *port, cup_index button)
{
    return port->table->closed && port->table->closed(port->self, button);
}
