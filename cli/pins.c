/* cuplatch pins: what this machine has; and of a site, whether its pins are
 * there, one of its outputs for a moment, or all of them off. */
#include <errno.h>
#include <limits.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

#include "../controller/wired.h"
#include "../grammar/quantity.h"
#include "../ports/linux/chips.h"
#include "../ports/linux/clock.h"
#include "../ports/linux/machine.h"
#include "../ports/linux/ways.h"
#include "common/cli.h"
#include "cuplatch/say.h"
#include "pins/offer.h"

#define CLICK_MS 1000
#define CLICK_MOST_MS 60000
#define STEP_MS 100

struct pins_wishes {
    char *click;
    char *span;
    int32_t click_ms;
    int off;
    int unit;
};

/* What is where */

/* What a way that is no line leads to. */
static const char *end_of(const struct pin *pin)
{
    const char *const ends[] = {pin->path, pin->command, pin->host,
                                pin->device};
    for (size_t i = 0; i < sizeof(ends) / sizeof(ends[0]); i++)
        if (ends[i])
            return ends[i];
    return "";
}

static void say_where(const struct pin *pin, char *text, size_t size)
{
    const char *way = pin_way_code(pin->way);
    if (pin->trigger >= 0)
        snprintf(text, size, "%s: chip %s, lines %d and %d", way, pin->chip,
                 (int)pin->trigger, (int)pin->echo);
    else if (pin->chip)
        snprintf(text, size, "%s: chip %s, line %d", way, pin->chip,
                 (int)pin->line);
    else if (*pin->channel)
        snprintf(text, size, "%s: %s of %s%s", way, pin->channel, pin->device,
                 pin->scaled == 1 ? ", scaled" : "");
    else if (pin->coil >= 0)
        snprintf(text, size, "%s: coil %d of unit %d at %s", way,
                 (int)pin->coil, (int)pin->unit, end_of(pin));
    else if (pin->bus >= 0)
        snprintf(text, size, "%s: bus %d, address %d", way, (int)pin->bus,
                 (int)pin->address);
    else
        snprintf(text, size, "%s: %s", way, end_of(pin));
}

/* How long after a death the output is off, and what holds it then. */
static void say_safe(const struct wired *wired, const struct pin *pin,
                     char *text, size_t size)
{
    *text = '\0';
    if (pin->off_pulse_ms > 0)
        snprintf(text, size, ", shut by a pulse of %.2f s",
                 pin->off_pulse_ms / 1000.0);
    if (pin->holds_ms < 0)
        return;
    for (size_t i = 0; i < wired->buses.ask_count; i++)
        if (wired->buses.asks[i].duct->pin == pin)
            snprintf(text, size, ", off within %.1f s",
                     bus_off_ms(wired->buses.asks[i].bus) / 1000.0);
    size_t used = strlen(text);
    if (pin->holds_ms == PIN_NEVER)
        snprintf(text + used, size - used,
                 "; ITS BOARD HOLDS IT ON FOR EVER if the line is cut");
    else
        snprintf(text + used, size - used, "; its board drops it after %d s",
                 (int)(pin->holds_ms / 1000));
}

static void show(const struct wired *wired, const struct site *site)
{
    struct cup_file_port *ports;
    size_t count = cup_file_ports(site->file, &ports);
    for (size_t i = 0; i < count; i++) {
        char where[300];
        char safe[120];
        const struct pin *pin = pins_find(&wired->pins, ports[i].port);
        if (!pin) {
            printf("%-10s %-16s the panel; look --live is that here\n",
                   ports[i].port, ports[i].thing);
            continue;
        }
        say_where(pin, where, sizeof(where));
        say_safe(wired, pin, safe, sizeof(safe));
        printf("%-10s %-16s %s%s\n", ports[i].port, ports[i].thing, where,
               safe);
    }
    free(ports);
    puts("\nAll of them are there. Next: --click each output at the bench, and "
         "cuplatch look\nSITE --pins PINS each sensor.");
}

/* The service's devices */

static void allow(const char *device)
{
    printf("DeviceAllow=%s rw\n", device);
}

/* Boards at a network: that, and only to where they are, if that is a number.
 */
static void allow_network(const struct pins *pins)
{
    bool first = true, named = false;
    for (size_t i = 0; i < pins->count; i++) {
        const char *host = pins->list[i].host;
        if (!host)
            continue;
        if (first)
            puts("PrivateNetwork=no\n"
                 "RestrictAddressFamilies=AF_UNIX AF_INET AF_INET6");
        first = false;
        size_t length = strspn(host, "0123456789.");
        if (host[length] && host[length] != ':')
            named = true;
        else
            printf("IPAddressAllow=%.*s\n", (int)length, host);
    }
    if (named)
        puts("# a board is known by its name alone\nIPAddressDeny=");
}

static void show_unit(const struct wired *wired)
{
    bool chips[CHIPS_MOST] = {false};
    puts("[Service]\nDevicePolicy=closed");
    for (size_t i = 0; i < wired->pins.count; i++) {
        const struct pin *pin = &wired->pins.list[i];
        char path[64];
        int chip = pin->chip ? chip_number(pin->chip) : -1;
        if (chip >= 0 && !chips[chip]) {
            snprintf(path, sizeof(path), "/dev/gpiochip%d", chip);
            allow(path);
            chips[chip] = true;
        }
        if (pin->bus >= 0) {
            snprintf(path, sizeof(path), "/dev/i2c-%d", (int)pin->bus);
            allow(path);
        }
        if (pin->device && *pin->device == '/')
            allow(pin->device);
        if (strcmp(pin->port, PIN_WATCHDOG) == 0 && pin->path)
            allow(pin->path);
    }
    allow_network(&wired->pins);
}

/* Switching */

struct click {
    struct wired *wired;
    const struct site *site;
    cup_index pump;
    int32_t ms;
};

static void nap(int64_t ms)
{
    struct timespec span = {0, (long)ms * 1000000};
    nanosleep(&span, NULL);
}

static void ignore(void *self, unsigned thing, const struct reply *heard)
{
    (void)self, (void)thing, (void)heard;
}

static void put(const struct click *click, bool on)
{
    const struct cup_plan *plan = click->site->site.plan;
    struct buses *buses = &click->wired->buses;
    unsigned thing = buses_output(plan, click->pump, 0);
    const struct bus_ear ear = {ignore, NULL};
    bool high = on != plan->pumps[click->pump].active_low;
    if (!buses_has(buses, thing)) {
        outlet_put(&click->wired->outlets.outputs[click->pump][0], high);
        return;
    }
    buses_put(buses, thing, high, (uint64_t)clock_ms());
    buses_turn(buses, (uint64_t)clock_ms(), &ear);
}

/* The life of the worker: on for its time, then off. */
static int click_on(void *self, const struct worker_life *life)
{
    struct click *click = self;
    const volatile int *stop = stop_flag();
    int64_t until = clock_ms() + click->ms;
    click->wired->buses.reign = life->reign;
    while (!*stop && clock_ms() < until && !duct_can_read(life->alive, 0)) {
        int64_t left = until - clock_ms();
        put(click, true);
        (void)!write(life->beat, "", 1);
        nap(left < STEP_MS ? (left > 0 ? left : 0) : STEP_MS);
    }
    put(click, false);
    return clock_ms() < until ? EXIT_NO : EXIT_DONE;
}

/* A pump or a valve by its name or its port. */
static bool find_output(const struct site *site, const char *name,
                        cup_index *pump)
{
    const struct cup_plan *plan = site->site.plan;
    const char *names[64] = {NULL};
    for (cup_index i = 0; i < plan->pump_count; i++) {
        cup_index thing = cup_pump_thing(plan, i);
        const char *port = cup_file_port(site->file, thing);
        if (i < 63)
            names[i] = cup_thing_name(plan, thing);
        if (strcmp(cup_thing_name(plan, thing), name) == 0 ||
            (port && strcmp(port, name) == 0)) {
            *pump = i;
            return true;
        }
    }
    char list[200];
    words_list(list, sizeof(list), names);
    fprintf(stderr, "cuplatch: there is no output \"%s\"; expected %s\n", name,
            list);
    return false;
}

/* Under a guardian, as all that switches. */
static int guard(struct click *click)
{
    struct wired *wired = click->wired;
    struct guarded guarded = {.line_count = wired->outlets.line_count,
                              .buses = &wired->buses,
                              .late_ms = 3000,
                              .once = true,
                              .watchdog = -1,
                              .notify = -1,
                              .work = click_on,
                              .self = click};
    memcpy(guarded.lines, wired->outlets.lines, sizeof(guarded.lines));
    enum guardian_end how = guardian_run(&guarded);
    buses_stop(&wired->buses, true);
    if (how == GUARDIAN_FAILED)
        return EXIT_OUTSIDE;
    return guarded.code ? EXIT_NO : EXIT_DONE;
}

/* Holds everything, off; clicks one, if one is given. */
static int take_over(struct wired *wired, const struct site *site,
                     const struct pins_wishes *wishes)
{
    struct click click = {.wired = wired, .site = site};
    if (wishes->click && !find_output(site, wishes->click, &click.pump))
        return EXIT_USAGE;
    click.ms = wishes->click ? wishes->click_ms : 0;
    if (!wired_hold(wired, site))
        return EXIT_OUTSIDE;
    if (!buses_start(&wired->buses, true)) {
        tell_failure("buses cannot be started", errno);
        return EXIT_OUTSIDE;
    }
    int code = guard(&click);
    if (code == EXIT_DONE && wishes->click)
        printf("%s was on for %g s; all is off\n", wishes->click,
               click.ms / 1000.0);
    else if (code == EXIT_NO)
        fprintf(stderr, "cuplatch: it was cut short; all is off\n");
    else if (code == EXIT_DONE)
        puts("all outputs are off");
    return code;
}

static int of_site(struct words *words, const struct pins_wishes *wishes)
{
    struct site site;
    struct wired wired = {.outlets = {.line_count = 0}};
    int code = site_open(&site, words);
    if (code == EXIT_DONE)
        code = wired_open(&site, words->list[1],
                          wishes->off ? WIRED_READ : WIRED_TRIED, &wired);
    if (code == EXIT_DONE && (wishes->off || wishes->click))
        code = take_over(&wired, &site, wishes);
    else if (code == EXIT_DONE && wishes->unit)
        show_unit(&wired);
    else if (code == EXIT_DONE)
        show(&wired, &site);
    wired_close(&wired);
    site_close(&site);
    return code;
}

static bool read_span(struct words *words, struct pins_wishes *wishes)
{
    wishes->click_ms = CLICK_MS;
    if (!wishes->span)
        return true;
    if (!wishes->click)
        wrong_use(words, "--for goes with --click%s", "");
    else if (quantity_read(wishes->span, CUP_UNIT_SECOND, &wishes->click_ms) ||
             wishes->click_ms < 1 || wishes->click_ms > CLICK_MOST_MS)
        wrong_use(words, "--for %s: expected a time up to 60s, such as 2s",
                  wishes->span);
    else
        return true;
    return false;
}

static bool is_right(struct words *words, struct pins_wishes *wishes)
{
    int asks = (wishes->click != NULL) + wishes->off + wishes->unit;
    if (words->count == 1)
        wrong_use(words, "expected a pins file behind %s", words->list[0]);
    else if (words->count == 0 && asks > 0)
        wrong_use(words, "expected SITE and PINS%s", "");
    else if (asks > 1)
        wrong_use(words, "--click, --off and --unit are each for itself%s", "");
    else
        return read_span(words, wishes);
    return false;
}

int pins_main(int argc, const char **argv)
{
    struct pins_wishes wishes = {.click = NULL};
    struct poptOption options[] = {
        {"click", 0, POPT_ARG_STRING, &wishes.click, 0,
         "switch one output on for a moment, at the bench: no guard holds",
         "OUTPUT"},
        {"for", 0, POPT_ARG_STRING, &wishes.span, 0,
         "with --click: for so long, up to 60s; 1s if not given", "TIME"},
        {"off", 0, POPT_ARG_NONE, &wishes.off, 0, "put every output off", NULL},
        {"unit", 0, POPT_ARG_NONE, &wishes.unit, 0,
         "the devices that a service of it needs, for a unit file", NULL},
        POPT_AUTOHELP POPT_TABLEEND};
    struct words words;
    int code = EXIT_USAGE;
    if (words_read(&words, argc, argv, options, "[SITE PINS]", 0, 2) &&
        is_right(&words, &wishes))
        code = words.count == 0 ? offer_show() : of_site(&words, &wishes);
    free(wishes.click);
    free(wishes.span);
    words_free(&words);
    return code;
}
