/* The port's functions over lines and buses, and the pass over them. */
#include "linux.h"

#include <stdlib.h>
#include <unistd.h>

#include "../common/table.h"
#include "chips.h"
#include "cuplatch/site.h"
#include "ways.h"

/* How often buttons are looked at, and lamps that blink switched. */
#define TICK_MS 20
/* A sensor that is powered to be read holds up the next for its own time, and
 * so much more. */
#define POWERED_MS 500
/* How long a start waits for its entry in the journal. */
#define DISK_MS 5000

struct cup_linux {
    const struct cup_site *site;
    const struct wiring *wiring;
    const struct outlets *outlets;
    struct buses *buses;
    const struct cup_sink *sink;
    const struct cup_linux_journal *journal;
    uint64_t waits_ms; /* since when an entry is waited for; 0: none is */
    bool *on;          /* of each pump */
    const struct bus_ear *watch;
    int *switches; /* a held line of each sensor that is one; else -1 */
    int *buttons;
    uint8_t *lit;      /* of each lamp of the plan: its marks, or its pattern */
    cup_index powered; /* a sensor with a supply that is asked; CUP_NONE */
    uint64_t powered_ms;
    uint64_t now_ms;
};

uint32_t cup_linux_site_ms(uint64_t now_ms)
{
    return (uint32_t)now_ms;
}

/* The port */

static uint32_t port_now_ms(void *self)
{
    return cup_linux_site_ms(((struct cup_linux *)self)->now_ms);
}

/* A plain line is read at once; anything else answers later. */
static struct cup_sample port_sample(void *self, cup_index sensor)
{
    const struct cup_linux *port = self;
    uint64_t bits;
    if (port->switches[sensor] < 0 ||
        !gpio_get(port->switches[sensor], 1, &bits))
        return (struct cup_sample){.reject = CUP_REASON_NO_ANSWER};
    return (struct cup_sample){.raw = (int32_t)(bits & 1)};
}

static bool put(const struct cup_linux *port, cup_index pump, unsigned part,
                bool high)
{
    unsigned thing = buses_output(port->site->plan, pump, part);
    if (!buses_has(port->buses, thing))
        return outlet_put(&port->outlets->outputs[pump][part], high);
    buses_put(port->buses, thing, high, port->now_ms);
    return buses_obeys(port->buses, thing, port->now_ms);
}

/* What bounds a run is on the disk before the run begins. A disk that takes
 * too long is an output that does not obey. */
static enum cup_error port_drive(void *self, cup_index pump, bool high)
{
    struct cup_linux *port = self;
    bool low = port->site->plan->pumps[pump].active_low;
    bool on = high != low;
    bool waits = on && !port->on[pump] && port->waits_ms > 0;
    if (!waits)
        port->on[pump] = on;
    if (!put(port, pump, 0, waits ? low : high))
        return CUP_ERROR_PORT;
    return waits && port->now_ms - port->waits_ms > DISK_MS ? CUP_ERROR_PORT
                                                            : CUP_OK;
}

/* A plain line is put at once, one of a bus only when that says so. */
static bool is_put(const struct cup_linux *port, cup_index pump, unsigned part,
                   bool high)
{
    unsigned thing = buses_output(port->site->plan, pump, part);
    return !buses_has(port->buses, thing) || buses_is(port->buses, thing, high);
}

/* One line opens, the other shuts: never both. */
static enum cup_error port_move(void *self, cup_index pump,
                                uint16_t place_pct100, int way)
{
    const struct cup_linux *port = self;
    bool low = port->site->plan->pumps[pump].active_low;
    (void)place_pct100;
    bool may = is_put(port, pump, way > 0, low);
    bool first = put(port, pump, way > 0, low);
    bool second = put(port, pump, way <= 0, (may && way != 0) != low);
    return first && second ? CUP_OK : CUP_ERROR_PORT;
}

static enum cup_error port_supply(void *self, cup_index supply, bool on)
{
    const struct cup_linux *port = self;
    return outlet_put(&port->outlets->supplies[supply], on) ? CUP_OK
                                                            : CUP_ERROR_PORT;
}

static void port_light(void *self, cup_index lamp, uint8_t lit)
{
    ((struct cup_linux *)self)->lit[lamp] = lit;
}

static bool port_closed(void *self, cup_index button)
{
    const struct cup_linux *port = self;
    uint64_t bits = 0;
    bool known = gpio_get(port->buttons[button], 1, &bits);
    return known && (bits & 1) != port->wiring->buttons[button].low;
}

static void port_tell(void *self, const struct cup_event *event)
{
    const struct cup_linux *port = self;
    port->sink->take(port->sink->self, event);
}

static const struct cup_port_table table = {.now_ms = port_now_ms,
                                            .sample = port_sample,
                                            .drive = port_drive,
                                            .supply = port_supply,
                                            .move = port_move,
                                            .light = port_light,
                                            .closed = port_closed,
                                            .tell = port_tell};

/* Asking */

static void hear(void *self, unsigned thing, const struct reply *heard)
{
    struct cup_linux *port = self;
    const struct cup_plan *plan = port->site->plan;
    uint32_t now_ms = cup_linux_site_ms(port->now_ms);
    cup_index i = (cup_index)thing;
    if (port->powered == i)
        port->powered = CUP_NONE;
    if (port->watch)
        port->watch->heard(port->watch->self, thing, heard);
    if (i >= plan->sensor_count)
        cup_site_answer(port->site, (cup_index)(i - cup_source_thing(plan, 0)),
                        now_ms, heard->bytes, heard->count);
    else if (heard->count > 0 && cup_form_is_bytes(plan->sensors[i].form))
        cup_site_hear_bytes(port->site, i, now_ms, heard->bytes, heard->count);
    else if (heard->count > 0)
        cup_site_hear(port->site, i, now_ms,
                      (struct cup_sample){.reject = CUP_REASON_BAD_FRAME});
    else
        cup_site_hear(
            port->site, i, now_ms,
            (struct cup_sample){.raw = heard->raw, .reject = heard->reject});
}

static void ask_sensor(struct cup_linux *port, cup_index i)
{
    if (!buses_has(port->buses, i)) {
        struct cup_sample sample = port_sample(port, i);
        struct reply heard = {.raw = sample.raw, .reject = sample.reject};
        hear(port, i, &heard);
        return;
    }
    buses_want(port->buses, i, port->now_ms);
    if (port->site->plan->sensors[i].supply == CUP_NONE)
        return;
    port->powered = i;
    port->powered_ms = port->now_ms;
}

/* What is due. One that is powered for its reading is waited for before the
 * next is asked, so that its supply stays on till then; the pass is not. */
static void ask(struct cup_linux *port)
{
    uint32_t now_ms = cup_linux_site_ms(port->now_ms);
    struct cup_want want;
    while (port->powered == CUP_NONE &&
           cup_site_ask(port->site, now_ms, &want)) {
        if (want.kind == CUP_WANT_SUPPLY)
            (void)!port_supply(port, want.index, want.on);
        else if (want.kind == CUP_WANT_REQUEST)
            buses_want(port->buses,
                       cup_source_thing(port->site->plan, want.index),
                       port->now_ms);
        else
            ask_sensor(port, want.index);
    }
}

/* A bus that is stuck must not keep the others from being asked. */
static void give_up_powered(struct cup_linux *port)
{
    const struct reply none = {.reject = CUP_REASON_NO_ANSWER};
    cup_index i = port->powered;
    if (i == CUP_NONE)
        return;
    int32_t most = duct_answer_ms(port->wiring->sensors[i]) + POWERED_MS;
    if (port->now_ms - port->powered_ms <= (uint64_t)most)
        return;
    buses_forget(port->buses, i);
    hear(port, i, &none);
}

static void look_at_buttons(struct cup_linux *port)
{
    for (cup_index i = 0; i < port->site->plan->button_count; i++)
        (void)cup_site_press(port->site, i, cup_linux_site_ms(port->now_ms),
                             port_closed(port, i));
}

static bool is_lit(const struct cup_linux *port, const struct pin_lamp *lamp)
{
    const struct cup_plan *plan = port->site->plan;
    uint8_t lit = port->lit[lamp->lamp];
    if (lamp->lamp < plan->bar_count)
        return cup_bar_lights(&plan->bars[lamp->lamp], lit, lamp->part);
    return cup_pattern_lit((enum cup_pattern)lit,
                           cup_linux_site_ms(port->now_ms));
}

static void light(const struct cup_linux *port)
{
    for (size_t i = 0; i < port->wiring->lamp_count; i++)
        outlet_put(&port->outlets->lamps[i],
                   is_lit(port, &port->wiring->lamps[i]));
}

void cup_linux_turn(struct cup_linux *port, uint64_t now_ms)
{
    const struct bus_ear ear = {hear, port};
    port->now_ms = now_ms;
    buses_turn(port->buses, now_ms, &ear);
    give_up_powered(port);
    ask(port);
    buses_turn(port->buses, now_ms, &ear);
    look_at_buttons(port);
    light(port);
}

static void note_waits(struct cup_linux *port)
{
    if (!port->journal->waits(port->journal->self))
        port->waits_ms = 0;
    else if (port->waits_ms == 0)
        port->waits_ms = port->now_ms;
}

void cup_linux_kept(struct cup_linux *port, uint64_t now_ms)
{
    struct cup_port as = {&table, port};
    port->now_ms = now_ms;
    if (port->waits_ms == 0)
        return;
    note_waits(port);
    if (port->waits_ms == 0)
        (void)!cup_port_drive_all(&as, port->site); /* an event, if it fails */
}

void cup_linux_pass(struct cup_linux *port, uint64_t now_ms)
{
    struct cup_port as = {&table, port};
    cup_linux_turn(port, now_ms);
    cup_site_decide(port->site, cup_linux_site_ms(now_ms), port->sink);
    if (port->journal) {
        (void)!cup_journal_step(port->journal->journal, port->site); /* told */
        note_waits(port);
    }
    (void)!cup_port_act(&as, port->site); /* as an event of what fails */
    light(port);
    buses_turn(port->buses, now_ms, &(struct bus_ear){hear, port});
}

static int least(int a, int b)
{
    return b < 0 || a < b ? a : b;
}

int cup_linux_left_ms(const struct cup_linux *port, uint64_t now_ms, int most)
{
    uint32_t warming = cup_site_warming(port->site, cup_linux_site_ms(now_ms));
    int left = least(most, buses_left_ms(port->buses, now_ms));
    if (warming < (uint32_t)left)
        left = (int)warming + 1;
    if (port->site->plan->button_count > 0 || port->wiring->lamp_count > 0)
        left = least(left, TICK_MS);
    return left;
}

void cup_linux_watch(struct cup_linux *port, const struct bus_ear *ear)
{
    port->watch = ear;
}

void cup_linux_keep(struct cup_linux *port,
                    const struct cup_linux_journal *journal)
{
    port->journal = journal;
}

void cup_linux_stop(struct cup_linux *port)
{
    struct cup_port as = {&table, port};
    cup_site_shut_down(port->site, port->sink);
    (void)!cup_port_drive_all(&as, port->site); /* the guardian does so, too */
    for (size_t i = 0; i < port->wiring->lamp_count; i++)
        outlet_put(&port->outlets->lamps[i], false);
    for (cup_index i = 0; i < port->site->plan->supplies; i++)
        outlet_put(&port->outlets->supplies[i], false);
}

/* Beginning */

/* Lines that are read, each held by itself. */
static bool hold_input(const struct pin *pin, int *held, struct place *where,
                       char *wrong, size_t size)
{
    *held = -1;
    if (!pin || pin->way != PIN_GPIO)
        return true;
    struct gpio_ask line = {.user = "cuplatch",
                            .lines = {(uint32_t)pin->line},
                            .count = 1,
                            .pull = pin->pull};
    *held = chip_hold(pin->chip, &line, wrong, size);
    *where = pin->place;
    return *held >= 0;
}

static bool hold_inputs(struct cup_linux *port, struct place *where,
                        char *wrong, size_t size)
{
    const struct cup_plan *plan = port->site->plan;
    bool held = true;
    for (cup_index i = 0; i < plan->sensor_count && held; i++)
        held = hold_input(port->wiring->sensors[i], &port->switches[i], where,
                          wrong, size);
    for (cup_index i = 0; i < plan->button_count && held; i++)
        held = hold_input(port->wiring->buttons[i].pin, &port->buttons[i],
                          where, wrong, size);
    return held;
}

static int *no_lines(size_t count)
{
    int *lines = malloc((count + 1) * sizeof(*lines));
    for (size_t i = 0; lines && i < count; i++)
        lines[i] = -1;
    return lines;
}

struct cup_linux *cup_linux_open(const struct cup_site *site,
                                 const struct wiring *wiring,
                                 const struct outlets *outlets,
                                 struct buses *buses,
                                 const struct cup_sink *sink,
                                 struct place *where, char *wrong, size_t size)
{
    struct cup_linux *port = calloc(1, sizeof(*port));
    const struct cup_plan *plan = site->plan;
    if (!port)
        abort();
    *port = (struct cup_linux){.site = site,
                               .wiring = wiring,
                               .outlets = outlets,
                               .buses = buses,
                               .sink = sink,
                               .powered = CUP_NONE};
    port->switches = no_lines(plan->sensor_count);
    port->buttons = no_lines(plan->button_count);
    port->on = calloc(plan->pump_count + 1u, sizeof(*port->on));
    port->lit = calloc(plan->bar_count + plan->signal_count + 1u, 1);
    if (!port->switches || !port->buttons || !port->lit || !port->on)
        abort();
    if (hold_inputs(port, where, wrong, size))
        return port;
    cup_linux_close(port);
    return NULL;
}

static void close_lines(int *lines, size_t count)
{
    for (size_t i = 0; i < count; i++)
        if (lines[i] >= 0)
            close(lines[i]);
    free(lines);
}

void cup_linux_close(struct cup_linux *port)
{
    close_lines(port->switches, port->site->plan->sensor_count);
    close_lines(port->buttons, port->site->plan->button_count);
    free(port->lit);
    free(port->on);
    free(port);
}
