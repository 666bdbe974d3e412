/* The process of a bus. */
#include <signal.h>
#include <stdlib.h>
#include <sys/prctl.h>
#include <sys/socket.h>
#include <unistd.h>

#include "bus_inside.h"
#include "ways.h"

/* Descriptors of ours that come first: the three streams. */
#define FIRST 3u

/* Nothing that the worker or the guardian holds is ours: no line, journal or
 * socket. */
static void let_go(int keeps, int keeps_too)
{
    unsigned low = (unsigned)(keeps < keeps_too ? keeps : keeps_too);
    unsigned high = (unsigned)(keeps < keeps_too ? keeps_too : keeps);
    if (keeps_too < 0)
        low = high = (unsigned)keeps;
    if (low > FIRST)
        close_range(FIRST, low - 1, 0);
    if (high > low + 1)
        close_range(low + 1, high - 1, 0);
    close_range(high + 1, ~0u, 0);
}

static bool put_all_off(const struct bus *bus)
{
    bool done = true;
    for (size_t i = 0; i < bus->count; i++)
        if (bus->ducts[i].switches)
            done = duct_off(&bus->ducts[i]) && done;
    return done;
}

static void answer(int fd, const struct bus_answer *said)
{
    if (send(fd, said, sizeof(*said), MSG_NOSIGNAL) < 0)
        _exit(0); /* nobody is there any more */
}

static void hear_guardian(struct bus *bus)
{
    struct bus_word word;
    struct bus_answer said = {.ticket = 0};
    if (recv(bus->guard[1], &word, sizeof(word), 0) != (ssize_t)sizeof(word))
        _exit(0);
    said.reign = bus->reign = word.reign;
    said.done = put_all_off(bus);
    answer(bus->guard[1], &said);
}

static void hear_worker(struct bus *bus)
{
    struct bus_word word;
    ssize_t got = recv(bus->work[1], &word, sizeof(word), 0);
    if (got == 0)
        _exit(0);
    if (got != (ssize_t)sizeof(word) || word.duct >= bus->count ||
        word.reign != bus->reign)
        return; /* the last word of one that is dead */
    struct bus_answer said = {.ticket = word.ticket, .reign = word.reign};
    if (word.verb == BUS_READ)
        duct_read(&bus->ducts[word.duct], &said.heard);
    else
        said.done = duct_write(&bus->ducts[word.duct], word.high);
    answer(bus->work[1], &said);
}

/* The guardian first, then streams, so that none runs over, then the worker. */
static void turn(struct bus *bus, struct pollfd *fds)
{
    nfds_t count = 2;
    fds[0] = (struct pollfd){.fd = bus->guard[1], .events = POLLIN};
    fds[1] = (struct pollfd){.fd = bus->work[1], .events = POLLIN};
    for (size_t i = 0; i < bus->count; i++)
        fds[count++] =
            (struct pollfd){.fd = bus->ducts[i].streams ? bus->ducts[i].fd : -1,
                            .events = POLLIN};
    if (poll(fds, count, -1) < 0)
        return;
    if (fds[0].revents) {
        hear_guardian(bus);
        return;
    }
    for (size_t i = 0; i < bus->count; i++)
        if (fds[2 + i].revents)
            duct_hear(&bus->ducts[i]);
    if (fds[1].revents)
        hear_worker(bus);
}

void bus_serve(struct bus *bus)
{
    struct pollfd *fds = calloc(bus->count + 2, sizeof(*fds));
    char wrong[200];
    prctl(PR_SET_PDEATHSIG, SIGKILL);
    let_go(bus->work[1], bus->guard[1]);
    if (!fds)
        _exit(1);
    for (size_t i = 0; i < bus->count; i++) /* streams begin at once */
        way_of(bus->ducts[i].pin)->open(&bus->ducts[i], wrong, sizeof(wrong));
    for (;;)
        turn(bus, fds);
}
