/* A site's ports and the pins, held against each other. */
#include <stdlib.h>
#include <string.h>

#include "pins.h"

/* What a port can bring in, a bit each. */
enum {
    NUMBER = 1,
    BIT = 2,
    ECHO = 4,
    COUNT = 8,
    BYTES = 16,
    STREAM = 32,
    REGISTERS = 64,
    ANY = NUMBER | BIT | ECHO | COUNT | BYTES | STREAM
};

static const struct {
    unsigned brings;
    bool switches;
} ways[PIN_WAY_COUNT] = {
#define X(name, code, brings, switches) {brings, switches},
    PIN_WAYS(X)
#undef X
};

struct joining {
    struct pins *pins;
    const struct cup_file *file;
    const struct cup_plan *plan;
    struct wiring *wiring;
    bool *used; /* of each pin */
};

/* What a form takes in, and an example of how it may come. */
struct takes {
    unsigned kind;
    const char *such_as;
};

static struct takes takes_of(uint8_t form)
{
    switch (form) {
    case CUP_FORM_ECHO:
        return (struct takes){ECHO, "trigger-echo or program"};
    case CUP_FORM_SWITCH:
        return (struct takes){BIT | NUMBER, "gpio, file or program"};
    case CUP_FORM_PULSES:
        return (struct takes){COUNT | NUMBER, "pulses, file or program"};
    case CUP_FORM_RANGE_BYTES:
    case CUP_FORM_RANGE_TEXT:
        return (struct takes){STREAM, "serial or program"};
    default:
        break;
    }
    if (cup_form_is_bytes(form))
        return (struct takes){BYTES, "i2c, w1 or program"};
    return (struct takes){NUMBER, "iio, file or program"};
}

/* A pin that cannot be what the site has it for, and which ways can. */
static void wrong_way(const struct joining *joining, const struct pin *pin,
                      const struct cup_file_port *port, const char *what,
                      const char *such_as)
{
    problem_error(&joining->pins->problems, pin->place,
                  "for [%s] of the site %s is %s, which %s cannot be; expected "
                  "through = %s",
                  port->thing, port->port, what, pin_way_code(pin->way),
                  such_as);
}

static void join_sensor(const struct joining *joining, struct pin *pin,
                        const struct cup_file_port *port)
{
    uint8_t form = joining->plan->sensors[port->index].form;
    struct takes takes = takes_of(form);
    const char *word = cup_file_value(joining->file, port->thing, "form");
    char what[60];
    snprintf(what, sizeof(what), "a sensor of form %.30s", word ? word : "?");
    if (!(ways[pin->way].brings & takes.kind))
        wrong_way(joining, pin, port, what, takes.such_as);
    joining->wiring->sensors[port->index] = pin;
}

/* What switches through something else needs to know how long that holds. */
static void check_holds(const struct joining *joining, const struct pin *pin,
                        const char *thing)
{
    struct problems *problems = &joining->pins->problems;
    bool board = pin->way == PIN_BOARD;
    uint32_t scan_ms = joining->plan->scan_ms;
    if (pin->way == PIN_MODBUS && pin->coil < 0)
        problem_error(problems, pin->place,
                      "[%s] of the site is switched by this: it needs coils, "
                      "unit and holds",
                      thing);
    else if (board && (pin->holds_ms < 0 || pin->holds_ms == PIN_NEVER))
        problem_error(problems, pin->place,
                      "[%s] of the site is switched by this: it needs holds, "
                      "the time after which the board puts it off by itself, "
                      "such as 5s",
                      thing);
    else if ((uint32_t)pin->holds_ms <= 2 * scan_ms)
        problem_error(problems, pin->place,
                      "its board would drop it between two passes: holds must "
                      "be longer than two scans of the site, %g s",
                      2e-3 * scan_ms);
}

/* Only what has a line to shut by can be shut by a pulse. */
static void check_pulse(const struct joining *joining, const struct pin *pin,
                        const struct cup_file_port *port)
{
    if (pin->off_pulse_ms > 0 &&
        (port->use != CUP_AT_OUTPUT || port->part != 1))
        problem_error(&joining->pins->problems, pin->place,
                      "off_pulse is for the line by which an output is shut, "
                      "its close in the site file; %s is not",
                      port->port);
}

static void join_switched(const struct joining *joining, struct pin *pin,
                          const struct cup_file_port *port, struct pin **to,
                          bool line_only)
{
    bool right =
        ways[pin->way].switches && (!line_only || pin->way == PIN_GPIO);
    if (!right)
        wrong_way(joining, pin, port,
                  line_only ? "what must follow at once" : "an output",
                  line_only ? "gpio" : "gpio, modbus or board");
    else if (pin->way != PIN_GPIO)
        check_holds(joining, pin, port->thing);
    *to = pin;
}

static void join_lamp(const struct joining *joining, struct pin *pin,
                      const struct cup_file_port *port)
{
    struct wiring *wiring = joining->wiring;
    struct pin_lamp *lamp = &wiring->lamps[wiring->lamp_count++];
    *lamp = (struct pin_lamp){pin, port->index, port->part};
    join_switched(joining, pin, port, &lamp->pin, true);
}

static void join_one(const struct joining *joining, struct pin *pin,
                     const struct cup_file_port *port)
{
    struct wiring *wiring = joining->wiring;
    check_pulse(joining, pin, port);
    switch (port->use) {
    case CUP_AT_OUTPUT:
        join_switched(joining, pin, port,
                      &wiring->outputs[port->index][port->part], false);
        break;
    case CUP_AT_SUPPLY:
        join_switched(joining, pin, port, &wiring->supplies[port->index], true);
        break;
    case CUP_AT_LAMP:
        join_lamp(joining, pin, port);
        break;
    case CUP_AT_SENSOR:
        join_sensor(joining, pin, port);
        break;
    case CUP_AT_SOURCE:
        if (pin->way != PIN_MODBUS || pin->coil >= 0)
            wrong_way(joining, pin, port, "a block of registers",
                      "modbus, without coils");
        wiring->sources[port->index] = pin;
        break;
    case CUP_AT_BUTTON:
        if (pin->way != PIN_GPIO)
            wrong_way(joining, pin, port, "a button", "gpio");
        wiring->buttons[port->index] = (struct pin_button){pin, port->low};
        break;
    default:
        break;
    }
}

/* Whether a section is meant for a port, whose errors were told then. */
static bool is_there(const struct pins *pins, const char *port)
{
    char kind[PIN_PORT_MOST];
    snprintf(kind, sizeof(kind), "%.*s", (int)strcspn(port, ":"), port);
    for (size_t i = 0; i < pins->ini.count; i++) {
        const struct ini_section *section = &pins->ini.sections[i];
        bool read = false;
        for (size_t p = 0; p < pins->count; p++)
            read |= pins->list[p].place.line >= section->line &&
                    strncmp(pins->list[p].port, kind, strlen(kind)) == 0;
        if (!read && (strcmp(section->name, kind) == 0 ||
                      strcmp(section->name, port) == 0))
            return true;
    }
    return false;
}

/* The ports that the pins file has of the same kind, for who mistyped one. */
static void tell_missing(const struct joining *joining,
                         const struct cup_file_port *port)
{
    const struct pins *pins = joining->pins;
    const char **ports = calloc(pins->count + 1, sizeof(*ports));
    if (!ports)
        abort();
    for (size_t i = 0; i < pins->count; i++)
        ports[i] = pins->list[i].port;
    char list[160];
    words_list(list, sizeof(list), ports);
    free(ports);
    problem_error(&joining->pins->problems, (struct place){0, port->port},
                  "[%s] of the site is there (line %d of it), and this file "
                  "does not say what it is on this machine%s%s",
                  port->thing, port->line, *list ? "; there are " : "", list);
}

static void join_port(const struct joining *joining,
                      const struct cup_file_port *port)
{
    if (port->use == CUP_AT_PANEL)
        return; /* look --live is the panel here */
    struct pin *pin = pins_find(joining->pins, port->port);
    if (!pin) {
        if (!is_there(joining->pins, port->port))
            tell_missing(joining, port);
        return;
    }
    joining->used[pin - joining->pins->list] = true;
    join_one(joining, pin, port);
}

/* Lines of a chip that a pin has. */
static size_t lines_of(const struct pin *pin, int32_t lines[2])
{
    size_t count = 0;
    if (!pin->chip)
        return 0;
    if (pin->line >= 0)
        lines[count++] = pin->line;
    if (pin->trigger >= 0)
        lines[count++] = pin->trigger;
    if (pin->echo >= 0 && count < 2)
        lines[count++] = pin->echo;
    return count;
}

static int32_t shared_line(const struct pin *one, const struct pin *two)
{
    int32_t of_one[2];
    int32_t of_two[2];
    size_t count_one = lines_of(one, of_one);
    size_t count_two = lines_of(two, of_two);
    for (size_t a = 0; a < count_one; a++)
        for (size_t b = 0; b < count_two; b++)
            if (of_one[a] == of_two[b] && strcmp(one->chip, two->chip) == 0)
                return of_one[a];
    return -1;
}

static bool is_same_text(const char *one, const char *two)
{
    return one && two && strcmp(one, two) == 0;
}

static bool is_same_thing(const struct pin *one, const struct pin *two)
{
    return one->way == PIN_BOARD && two->way == PIN_BOARD &&
           is_same_text(one->device, two->device) &&
           strcmp(one->channel, two->channel) == 0;
}

static bool is_same_coil(const struct pin *one, const struct pin *two)
{
    return one->coil >= 0 && one->coil == two->coil && one->unit == two->unit &&
           (is_same_text(one->device, two->device) ||
            is_same_text(one->host, two->host));
}

/* Two outputs at one line or coil would undo each other. */
static void check_twice(struct pins *pins, size_t at)
{
    const struct pin *pin = &pins->list[at];
    if (pin->trigger >= 0 && pin->trigger == pin->echo)
        problem_error(&pins->problems, pin->place,
                      "trigger and echo are the same line; each needs its own");
    for (size_t i = 0; i < at; i++) {
        const struct pin *first = &pins->list[i];
        int32_t line = shared_line(first, pin);
        bool coil = is_same_coil(first, pin);
        if (line >= 0 || coil)
            problem_error(&pins->problems, pin->place,
                          "%s %d is that of %s already, in line %d; each port "
                          "needs its own",
                          coil ? "coil" : "line",
                          (int)(coil ? pin->coil : line), first->port,
                          first->place.line);
        else if (is_same_thing(first, pin))
            problem_error(&pins->problems, pin->place,
                          "%s of that board is that of %s already, in line %d; "
                          "each port needs its own",
                          pin->channel, first->port, first->place.line);
    }
}

static void *list_of(size_t count, size_t size)
{
    void *list = calloc(count + 1, size);
    if (!list)
        abort();
    return list;
}

/* A port that several share and that has no pin is told of once. */
static bool was_missed(const struct pins *pins,
                       const struct cup_file_port *ports, size_t at)
{
    if (pins_find(pins, ports[at].port))
        return false;
    for (size_t i = 0; i < at; i++)
        if (strcmp(ports[i].port, ports[at].port) == 0)
            return true;
    return false;
}

static void check_place(const struct joining *joining, cup_index pump)
{
    struct pin **pins = joining->wiring->outputs[pump];
    if (joining->plan->pumps[pump].positional && pins[0] && !pins[1])
        problem_error(&joining->pins->problems, pins[0]->place,
                      "this output is put at a place, which takes two lines "
                      "here; give it open and close in the site file");
}

/* A pin that the site has no use for; of a list, only if it has for none. */
static void warn_unused(const struct joining *joining, size_t at)
{
    const struct pins *pins = joining->pins;
    const struct pin *pin = &pins->list[at];
    bool first = true;
    if (strcmp(pin->port, PIN_WATCHDOG) == 0)
        return;
    for (size_t i = 0; i < pins->count; i++)
        if (pins->list[i].place.line == pin->place.line) {
            if (joining->used[i])
                return;
            first &= i >= at;
        }
    if (first)
        problem_warning(&joining->pins->problems, pin->place,
                        "no thing of the site is at %s", pin->port);
}

static struct wiring room_for(const struct cup_plan *plan, size_t lamps)
{
    return (struct wiring){
        .sensors = list_of(plan->sensor_count, sizeof(struct pin *)),
        .sources = list_of(plan->source_count, sizeof(struct pin *)),
        .outputs = list_of(plan->pump_count, sizeof(struct pin *[2])),
        .supplies = list_of(plan->supplies, sizeof(struct pin *)),
        .buttons = list_of(plan->button_count, sizeof(struct pin_button)),
        .lamps = list_of(lamps, sizeof(struct pin_lamp))};
}

void pins_join(struct pins *pins, const struct cup_file *file,
               struct wiring *wiring)
{
    const struct cup_plan *plan = cup_file_plan(file);
    struct cup_file_port *ports;
    size_t count = cup_file_ports(file, &ports);
    *wiring = room_for(plan, count);
    struct joining joining = {pins, file, plan, wiring,
                              list_of(pins->count, sizeof(bool))};
    for (size_t i = 0; i < count; i++)
        if (!was_missed(pins, ports, i))
            join_port(&joining, &ports[i]);
    for (cup_index i = 0; i < plan->pump_count; i++)
        check_place(&joining, i);
    for (size_t i = 0; i < pins->count; i++) {
        check_twice(pins, i);
        warn_unused(&joining, i);
    }
    free(joining.used);
    free(ports);
}

void pins_of_board(struct pins *pins, const struct cup_file *file,
                   const char *device, struct wiring *wiring)
{
    const struct cup_plan *plan = cup_file_plan(file);
    *pins = (struct pins){.path = strdup(device)};
    pins->list = list_of(plan->sensor_count, sizeof(struct pin));
    *wiring = room_for(plan, 0);
    if (!pins->path)
        abort();
    for (cup_index i = 0; i < plan->sensor_count; i++) {
        const struct cup_sensor *sensor = &plan->sensors[i];
        struct place place = {0, plan->names[i]};
        if (sensor->several || sensor->source != CUP_NONE)
            continue; /* it is not asked itself */
        if (cup_form_is_bytes(sensor->form)) {
            problem_warning(&pins->problems, place,
                            "a board tells numbers alone, not what this sensor "
                            "says in bytes");
            continue;
        }
        struct pin *pin = &pins->list[pins->count++];
        *pin = pin_none;
        pin->way = PIN_BOARD;
        pin->place = place;
        pin->device = pins->path;
        snprintf(pin->channel, sizeof(pin->channel), "%s", plan->names[i]);
        wiring->sensors[i] = pin;
    }
}

void wiring_free(struct wiring *wiring)
{
    free(wiring->sensors);
    free(wiring->sources);
    free(wiring->outputs);
    free(wiring->supplies);
    free(wiring->buttons);
    free(wiring->lamps);
    *wiring = (struct wiring){0};
}
