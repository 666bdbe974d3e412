/* A site over the pins of this machine: what the worker does. No pass waits for
 * anything but plain lines. */
#ifndef CUPLATCH_PORTS_LINUX_H
#define CUPLATCH_PORTS_LINUX_H

#include "cuplatch/journal.h"
#include "outlets.h"

struct cup_linux;

/* Begins with lines that are held and buses whose processes run. `sink` gets
 * every event, `journal` (opened; may be null) every entry. Null, and `where`
 * and `wrong` say which input could not be had. */
struct cup_linux *cup_linux_open(const struct cup_site *site,
                                 const struct wiring *wiring,
                                 const struct outlets *outlets,
                                 struct buses *buses,
                                 const struct cup_sink *sink,
                                 struct place *where, char *wrong, size_t size);
void cup_linux_close(struct cup_linux *port);

/* The journal, once it is open, and whether an entry of it is not yet known to
 * be on the disk: then nothing starts, and what is to stop does. */
struct cup_linux_journal {
    struct cup_journal *journal;
    bool (*waits)(void *self);
    void *self;
};
void cup_linux_keep(struct cup_linux *port,
                    const struct cup_linux_journal *journal);

/* Entries were confirmed: what waited for that starts. */
void cup_linux_kept(struct cup_linux *port, uint64_t now_ms);

/* Also tells somebody of every answer, as it came. */
void cup_linux_watch(struct cup_linux *port, const struct bus_ear *ear);

/* One pass, at a time of this machine's in ms. */
void cup_linux_pass(struct cup_linux *port, uint64_t now_ms);

/* Between passes: what came of buses, buttons, lamps that blink. */
void cup_linux_turn(struct cup_linux *port, uint64_t now_ms);

/* How long it may wait till the next turn, at the most so many ms. */
int cup_linux_left_ms(const struct cup_linux *port, uint64_t now_ms, int most);

/* Everything off, for good. */
void cup_linux_stop(struct cup_linux *port);

/* The time of the site. */
uint32_t cup_linux_site_ms(uint64_t now_ms);

#endif
