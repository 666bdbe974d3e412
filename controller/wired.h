/* A site with its pins on this machine: read, checked, tried, held. */
#ifndef CUPLATCH_CONTROLLER_WIRED_H
#define CUPLATCH_CONTROLLER_WIRED_H

#include "../ports/linux/lease.h"
#include "../ports/linux/linux.h"
#include "ready.h"

struct wired {
    struct pins pins;
    struct wiring wiring;
    struct outlets outlets;
    struct buses buses;
    struct leases leases;
};

/* Reads a pins file and holds it against a site, or against this machine, too:
 * every pin is tried, no output is touched; or for its sensors alone, so that
 * no pump can be switched; or all its sensors at a board, whose line is `path`.
 * What is wrong is told on stderr. Returns an exit
 * code; then wired_close(), whatever it is. */
enum wired_how { WIRED_READ, WIRED_TRIED, WIRED_SENSORS, WIRED_BOARD };
int wired_open(const struct site *site, const char *path, enum wired_how how,
               struct wired *wired);

/* Takes over every output, off; tells what was on. False, told on stderr, when
 * that cannot be done. */
bool wired_hold(struct wired *wired, const struct site *site);

/* Tells on stderr what is wrong at a place of the pins file. */
void wired_wrong(const struct wired *wired, const struct place *where,
                 const char *wrong);

void wired_close(struct wired *wired);

#endif
