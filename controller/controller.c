/* What is ready before the first worker begins, and who watches over it. */
#include "controller.h"

#include <errno.h>
#include <fcntl.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <sys/un.h>
#include <unistd.h>

#include "../ports/linux/machine.h"
#include "civil.h"
#include "same.h"
#include "worker.h"

/* A worker that gives no beat for so long is taken for hung: if the file
 * says `late`, that, within these. */
#define HUNG_LEAST_MS 3000
#define HUNG_MOST_MS 10000

static uint64_t said_by(const struct machine *machine)
{
    return same_add(same_add(SAME_BEGINS, machine->site->path),
                    machine->wishes->pins);
}

/* Whether the files as they are now could be run; told on stderr if not, and if
 * they say what they said: then nothing that runs is cut short. */
static bool may_begin(void *self)
{
    const struct machine *machine = self;
    struct site site;
    struct wired wired;
    if (said_by(machine) == machine->said) {
        fputs("cuplatch: the files say what they said\n", stderr);
        return false;
    }
    return site_read(&site, machine->site->path) == EXIT_DONE &&
           wired_open(&site, machine->wishes->pins, WIRED_READ, &wired) ==
               EXIT_DONE &&
           civil_zone_is_known(site.file, machine->site->path);
}

/* The service manager's socket, connected; -1: there is none. */
static int manager(void)
{
    const char *path = getenv("NOTIFY_SOCKET");
    struct sockaddr_un at = {.sun_family = AF_UNIX};
    if (!path || strlen(path) >= sizeof(at.sun_path))
        return -1;
    memcpy(at.sun_path, path, strlen(path));
    socklen_t length =
        (socklen_t)(offsetof(struct sockaddr_un, sun_path) + strlen(path));
    if (*path == '@')
        at.sun_path[0] = '\0'; /* a name that is no file's */
    int fd = socket(AF_UNIX, SOCK_DGRAM | SOCK_CLOEXEC, 0);
    if (fd >= 0 && connect(fd, (struct sockaddr *)&at, length) == 0)
        return fd;
    if (fd >= 0)
        close(fd);
    return -1;
}

/* The kernel's watchdog, if the pins file has one. False, told on stderr, when
 * it cannot be had. */
static bool open_watchdog(const struct pins *pins, int *watchdog)
{
    const struct pin *pin = pins_find(pins, PIN_WATCHDOG);
    *watchdog = -1;
    if (!pin)
        return true;
    *watchdog = open(pin->path ? pin->path : "", O_WRONLY | O_CLOEXEC);
    if (*watchdog < 0)
        fprintf(stderr, "cuplatch: %s:%d: %s: the watchdog: %s\n", pins->path,
                pin->place.line, pin->place.text, strerror(errno));
    return *watchdog >= 0;
}

static int hung_ms(const struct site *site)
{
    uint32_t late_ms = site->site.plan->late_ms;
    if (!cup_file_value(site->file, "site", "late") || late_ms < HUNG_LEAST_MS)
        return HUNG_LEAST_MS;
    return (int)(late_ms < HUNG_MOST_MS ? late_ms : HUNG_MOST_MS);
}

static int guard(struct machine *machine)
{
    struct wired *wired = &machine->wired;
    struct guarded guarded = {.line_count = wired->outlets.line_count,
                              .buses = &wired->buses,
                              .late_ms = hung_ms(machine->site),
                              .pause_ms = machine_pause_ms(),
                              .pause_most_ms = 60 * machine_pause_ms(),
                              .finish_ms = 900 * machine_pause_ms(),
                              .notify = manager(),
                              .work = worker_live,
                              .may_begin = may_begin,
                              .self = machine};
    memcpy(guarded.lines, wired->outlets.lines, sizeof(guarded.lines));
    if (!open_watchdog(&wired->pins, &guarded.watchdog))
        return EXIT_OUTSIDE;
    enum guardian_end how = guardian_run(&guarded);
    buses_stop(&wired->buses, true);
    if (how == GUARDIAN_ANEW)
        return CONTROLLER_ANEW;
    if (how == GUARDIAN_REFUSED)
        return guarded.code;
    return how == GUARDIAN_ENDED ? EXIT_DONE : EXIT_OUTSIDE;
}

int controller_run(struct site *site, const struct controller_wishes *wishes)
{
    struct machine machine = {.site = site, .wishes = wishes};
    machine.said = said_by(&machine);
    int code = wired_open(site, wishes->pins, WIRED_TRIED, &machine.wired);
    if (code == EXIT_DONE && !civil_zone_is_known(site->file, site->path))
        code = EXIT_NO;
    if (code == EXIT_DONE && !wired_hold(&machine.wired, site))
        code = EXIT_OUTSIDE;
    else if (code == EXIT_DONE && !buses_start(&machine.wired.buses, true)) {
        tell_failure("buses cannot be started", errno);
        code = EXIT_OUTSIDE;
    }
    if (code == EXIT_DONE)
        code = guard(&machine);
    wired_close(&machine.wired);
    return code;
}
