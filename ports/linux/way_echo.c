/* Rangers with a trigger and an echo line: the echo is timed by the kernel,
 * from one edge to the other. */
#include <time.h>
#include <unistd.h>

#include "chips.h"
#include "ways.h"

/* A trigger is at least so long. */
#define TRIGGER_NS 12000
/* What a ping leaves in the air is gone after so long. */
#define QUIET_NS 60000000ull

static uint64_t now_ns(void)
{
    struct timespec now;
    clock_gettime(CLOCK_MONOTONIC, &now);
    return (uint64_t)now.tv_sec * 1000000000ull + (uint64_t)now.tv_nsec;
}

static void rest(uint64_t ns)
{
    struct timespec span = {0, (long)ns};
    nanosleep(&span, NULL);
}

static void shut_echo(struct duct *duct)
{
    if (duct->fd >= 0)
        close(duct->fd);
    if (duct->more >= 0)
        close(duct->more);
    duct->fd = duct->more = -1;
}

static bool open_echo(struct duct *duct, char *wrong, size_t size)
{
    const struct pin *pin = duct->pin;
    struct gpio_ask echo = {.user = "cuplatch echo",
                            .lines = {(uint32_t)pin->echo},
                            .count = 1,
                            .edges = true};
    struct gpio_ask trigger = {.user = "cuplatch trigger",
                               .lines = {(uint32_t)pin->trigger},
                               .count = 1,
                               .outputs = true};
    if (duct->fd >= 0)
        return true;
    duct->fd = chip_hold(pin->chip, &echo, wrong, size);
    if (duct->fd >= 0)
        duct->more = chip_hold(pin->chip, &trigger, wrong, size);
    if (duct->more >= 0)
        return true;
    shut_echo(duct);
    return false;
}

static void ping(struct duct *duct)
{
    struct gpio_edge old;
    uint64_t since = now_ns() - duct->when_ns;
    if (since < QUIET_NS)
        rest(QUIET_NS - since);
    while (duct_can_read(duct->fd, 0) && gpio_edge(duct->fd, &old))
        ;
    gpio_set(duct->more, 1, 1);
    rest(TRIGGER_NS);
    gpio_set(duct->more, 1, 0);
    duct->when_ns = now_ns();
}

/* A whole echo: it rises, and falls. */
static void read_echo(struct duct *duct, struct reply *heard)
{
    uint64_t until = (uint64_t)duct->answer_ms * 1000000u;
    uint64_t rose_ns = 0;
    struct gpio_edge edge;
    ping(duct);
    uint64_t gone;
    while ((gone = now_ns() - duct->when_ns) < until &&
           duct_can_read(duct->fd, (int)((until - gone) / 1000000u + 1)) &&
           gpio_edge(duct->fd, &edge)) {
        if (edge.rising)
            rose_ns = edge.ns;
        else if (rose_ns > 0) {
            *heard =
                (struct reply){.raw = (int32_t)((edge.ns - rose_ns) / 1000)};
            return;
        }
    }
}

const struct way way_trigger_echo = {
    .open = open_echo, .read = read_echo, .shut = shut_echo, .answer_ms = 60};

/* Pulses of a meter: the kernel numbers the edges of a line, so that what its
 * queue drops is counted all the same. */

static bool open_pulses(struct duct *duct, char *wrong, size_t size)
{
    const struct pin *pin = duct->pin;
    struct gpio_ask ask = {.user = "cuplatch pulses",
                           .lines = {(uint32_t)pin->line},
                           .count = 1,
                           .edges = true,
                           .pull = pin->pull};
    if (duct->fd < 0)
        duct->fd = chip_hold(pin->chip, &ask, wrong, size);
    return duct->fd >= 0;
}

/* Both edges are numbered: a pulse has two. */
static void read_pulses(struct duct *duct, struct reply *heard)
{
    struct gpio_edge edge;
    while (duct_can_read(duct->fd, 0) && gpio_edge(duct->fd, &edge))
        duct->when_ns = edge.sequence;
    *heard = (struct reply){.raw = (int32_t)(duct->when_ns / 2 & 0xFFFF)};
}

const struct way way_pulses = {.open = open_pulses,
                               .read = read_pulses,
                               .shut = shut_echo,
                               .answer_ms = 1000};
