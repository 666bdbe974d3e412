/* Gathers the ports of a site file, thing by thing. */
#include "ports.h"

#include <stdlib.h>
#include <string.h>

static void take(struct ports *ports, struct taken taken)
{
    ports->list =
        realloc(ports->list, (ports->count + 1) * sizeof(*ports->list));
    if (!ports->list)
        abort();
    taken.length = strcspn(taken.text, " \t");
    ports->list[ports->count++] = taken;
}

static void take_lamps(struct ports *ports, const struct thing *bar)
{
    const struct value *lamps = good_value(bar, "lamps");
    uint8_t part = 0;
    for (const char *at = lamps ? lamps->text : ""; *at; part++) {
        take(ports, (struct taken){.text = at,
                                   .place = lamps->place,
                                   .who = bar,
                                   .use = CUP_AT_LAMP,
                                   .part = part});
        at += strcspn(at, " \t");
        at += strspn(at, " \t");
    }
}

struct ports ports_of(const struct cup_file *file)
{
    static const struct {
        const char *key;
        enum kind_number kind;
        enum cup_port_use use;
        uint8_t part;
    } keys[] = {
        {"port", KIND_PUMP, CUP_AT_OUTPUT, 0},
        {"open", KIND_PUMP, CUP_AT_OUTPUT, 0},
        {"close", KIND_PUMP, CUP_AT_OUTPUT, 1},
        {"port", KIND_SIGNAL, CUP_AT_LAMP, 0},
        {"port", KIND_BUTTON, CUP_AT_BUTTON, 0},
        {"supply", KIND_SENSOR, CUP_AT_SUPPLY, 0},
        {"port", KIND_SENSOR, CUP_AT_SENSOR, 0},
        {"port", KIND_SOURCE, CUP_AT_SOURCE, 0},
        {"port", KIND_PANEL, CUP_AT_PANEL, 0},
    };
    struct ports ports = {.file = file};
    for (size_t i = 0; i < file->things.count; i++) {
        const struct thing *thing = &file->things.list[i];
        for (size_t k = 0; k < sizeof(keys) / sizeof(keys[0]); k++) {
            const struct value *port = thing->kind == keys[k].kind
                                           ? good_value(thing, keys[k].key)
                                           : NULL;
            if (port)
                take(&ports, (struct taken){.text = port->text,
                                            .place = port->place,
                                            .who = thing,
                                            .use = keys[k].use,
                                            .part = keys[k].part});
        }
        if (thing->kind == KIND_BAR)
            take_lamps(&ports, thing);
    }
    return ports;
}

void ports_free(struct ports *ports)
{
    free(ports->list);
}

/* Its number among those of its kind, as a plan numbers them. */
static cup_index number_in(const struct cup_plan *plan,
                           const struct taken *taken)
{
    if (taken->use == CUP_AT_SUPPLY)
        return plan->sensors[taken->who->index].supply;
    if (taken->use == CUP_AT_LAMP && taken->who->kind == KIND_SIGNAL)
        return (cup_index)(plan->bar_count + taken->who->index);
    return taken->who->index;
}

static bool is_low(const struct taken *taken)
{
    return taken->use == CUP_AT_BUTTON &&
           number_of(taken->who, "active", 0) == 0;
}

size_t cup_file_ports(const struct cup_file *file, struct cup_file_port **list)
{
    struct ports ports = ports_of(file);
    *list = calloc(ports.count + 1, sizeof(**list));
    if (!*list)
        abort();
    for (size_t i = 0; i < ports.count; i++) {
        const struct taken *taken = &ports.list[i];
        struct cup_file_port *port = &(*list)[i];
        *port = (struct cup_file_port){.thing = taken->who->section->name,
                                       .line = taken->place.line,
                                       .use = taken->use,
                                       .part = taken->part,
                                       .low = is_low(taken),
                                       .index = number_in(&file->plan, taken)};
        if (taken->length < sizeof(port->port))
            memcpy(port->port, taken->text, taken->length);
    }
    ports_free(&ports);
    return ports.count;
}
