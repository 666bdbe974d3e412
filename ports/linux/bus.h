/* Slow buses: each has a process of its own that asks and switches what is on
 * it, so that no pass ever waits for one. A bus that switches anything belongs
 * to the guardian and outlives the worker; any other dies with the worker. */
#ifndef CUPLATCH_PORTS_BUS_H
#define CUPLATCH_PORTS_BUS_H

#include <poll.h>
#include <sys/types.h>

#include "duct.h"

/* No machine has nearly so many. */
#define BUSES_MOST 64

struct bus {
    char name[120];
    struct duct *ducts;
    size_t count;
    struct ask *asks;
    size_t ask_count;
    bool switches;
    bool late;   /* what it was asked was given up; its answer counts no more */
    int work[2]; /* the worker's end, and the bus's */
    int guard[2]; /* the guardian's, and the bus's; only where it switches */
    pid_t pid;
    size_t asked; /* which of its asks is under way; SIZE_MAX: none */
    size_t next;  /* whose turn it is to be asked */
    uint64_t since_ms;
    uint32_t ticket;
    uint32_t reign; /* of the worker that it hears */
};

/* What somebody wants of a duct.
 *   thing     a sensor or a source, by its number as a thing; a pump, counted
 *             on after all things, that is switched
 *   wanted    it is to be asked, or to be put at `high`
 *   at_ms     since when
 *   good      of one that is switched: the last word to it was acknowledged */
struct ask {
    struct bus *bus;
    struct duct *duct;
    unsigned thing;
    uint64_t at_ms;
    bool wanted;
    bool high;
    bool switches;
    bool good;
};

struct buses {
    struct bus list[BUSES_MOST];
    size_t count;
    struct duct *ducts;
    size_t duct_count;
    struct ask *asks;
    size_t ask_count;
    struct ask **of_things; /* by the thing; null where it needs no bus */
    uint32_t reign;         /* which of the guardian's workers this is */
};

/* Where answers go. */
struct bus_ear {
    void (*heard)(void *self, unsigned thing, const struct reply *heard);
    void *self;
};

/* The number of an output's line as a thing: behind all things of the plan. */
static inline unsigned buses_output(const struct cup_plan *plan, cup_index pump,
                                    unsigned part)
{
    return (unsigned)cup_things(plan) + 2u * pump + part;
}

/* Finds the buses of a wiring. False, and `wrong` says why: there are more than
 * BUSES_MOST. */
bool buses_make(struct buses *buses, const struct wiring *wiring,
                const struct cup_plan *plan, char *wrong, size_t size);
void buses_free(struct buses *buses);

/* Starts the processes of those that switch, or of all others. False with
 * errno. */
bool buses_start(struct buses *buses, bool switching);
void buses_stop(struct buses *buses, bool switching);

/* Wants a thing asked, once; the line of an output put high or low. */
void buses_want(struct buses *buses, unsigned thing, uint64_t now_ms);
/* Wants it no more: what may yet come of it counts for nothing. */
void buses_forget(struct buses *buses, unsigned thing);
void buses_put(struct buses *buses, unsigned thing, bool high, uint64_t now_ms);

/* Whether the bus of an output acknowledged, or has yet time to. */
bool buses_obeys(const struct buses *buses, unsigned thing, uint64_t now_ms);

/* Whether an output is known to be high, or low. */
bool buses_is(const struct buses *buses, unsigned thing, bool high);

/* Whether a thing is asked through a bus, and its answer is still to come. */
bool buses_has(const struct buses *buses, unsigned thing);
bool buses_waits(const struct buses *buses, unsigned thing);

/* What to wait for; then what came is taken, and the next asked. What is not
 * answered in its time is heard as no answer. */
size_t buses_wait(const struct buses *buses, struct pollfd *fds);
void buses_turn(struct buses *buses, uint64_t now_ms,
                const struct bus_ear *ear);

/* In ms, when a turn is due even if nothing comes; -1: never. */
int buses_left_ms(const struct buses *buses, uint64_t now_ms);

/* The guardian's word to a bus: everything off, and hear only the worker of
 * that reign from now on. False when it cannot be said at once. */
bool bus_say_off(const struct bus *bus, uint32_t reign);
/* What was answered: 1 all off, -1 not, 0 nothing yet. */
int bus_hear_off(const struct bus *bus, uint32_t reign);
/* Whether its process ended by itself. */
bool bus_is_dead(struct bus *bus);
/* Kills a process that does not answer, and starts another. */
void bus_restart(struct bus *bus);
/* How long it takes at the most. */
int bus_off_ms(const struct bus *bus);

#endif
