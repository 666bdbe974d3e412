/* A plain line by which something is shut that stays where it is: when all is
 * put off, a pulse shuts it. A process of its own holds it, since a pulse takes
 * its time. */
#include <time.h>
#include <unistd.h>

#include "chips.h"
#include "ways.h"

static bool open_pulsed(struct duct *duct, char *wrong, size_t size)
{
    struct gpio_ask ask = {.user = "cuplatch",
                           .lines = {(uint32_t)duct->pin->line},
                           .count = 1,
                           .outputs = true,
                           .pull = duct->pin->pull,
                           .first = duct->off};
    if (duct->fd < 0)
        duct->fd = chip_hold(duct->pin->chip, &ask, wrong, size);
    return duct->fd >= 0;
}

static bool write_pulsed(struct duct *duct, bool high)
{
    return gpio_set(duct->fd, 1, high);
}

static bool pulse(struct duct *duct)
{
    int32_t ms = duct->pin->off_pulse_ms;
    struct timespec span = {ms / 1000, ms % 1000 * 1000000L};
    bool begun = gpio_set(duct->fd, 1, !duct->off);
    nanosleep(&span, NULL);
    return gpio_set(duct->fd, 1, duct->off) && begun;
}

static void shut_pulsed(struct duct *duct)
{
    if (duct->fd >= 0)
        close(duct->fd);
    duct->fd = -1;
}

const struct way way_pulsed = {.open = open_pulsed,
                               .write = write_pulsed,
                               .make_safe = pulse,
                               .shut = shut_pulsed,
                               .answer_ms = 200};
