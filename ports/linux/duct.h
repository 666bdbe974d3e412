/* One pin as it is reached within the process of its bus: opened, asked, and
 * switched. Everything here may block: nothing of a pass does. */
#ifndef CUPLATCH_PORTS_DUCT_H
#define CUPLATCH_PORTS_DUCT_H

#include "../../pins/pins.h"

/* The longest answer, in bytes. */
#define HEARD_MOST 260

/* An answer: a number, or bytes where `count` is not 0; a reason of why not
 * where `reject` is not 0. */
struct reply {
    int32_t raw;
    uint16_t count;
    uint8_t reject;
    uint8_t bytes[HEARD_MOST];
};

/*   first   of its bus, which keeps what all of the bus share
 *   source  what a block of registers asks for; null for any other
 *   fd, more  descriptors of the way; -1: none. `own` is what it keeps else
 *   answer_ms  how long it may take to answer
 *   switches  it is an output; `off` is its level when it is off
 *   last    the end of what came of a stream since it was asked */
struct duct {
    const struct pin *pin;
    const struct cup_source *source;
    struct duct *first;
    int fd;
    int more;
    void *own;
    uint64_t when_ns;
    uint8_t last[HEARD_MOST];
    uint16_t last_count;
    int32_t answer_ms;
    bool streams;
    bool switches;
    bool off;
};

/* A way: each in a file of its own.
 *   open   opens what is not open yet; false, and `wrong` says why
 *   read   asks; what comes before the way's time is over is `heard`
 *   write  switches, and waits until that is acknowledged
 *   make_safe  what is to be done beside switching it off; null: nothing
 *   hear   takes what came by itself, of one that streams; null: duct_take()
 *   shut   closes it, to be opened anew
 *   answer_ms  how long it may take, if the file does not say so */
struct way {
    bool (*open)(struct duct *duct, char *wrong, size_t size);
    void (*read)(struct duct *duct, struct reply *heard);
    bool (*write)(struct duct *duct, bool high);
    bool (*make_safe)(struct duct *duct);
    void (*hear)(struct duct *duct);
    void (*shut)(struct duct *duct);
    int32_t answer_ms;
};

/* Takes what has come of a stream. */
void duct_take(struct duct *duct);

/* Reads a small file whole, as a text; false when it cannot be. */
bool duct_text(const char *path, char *text, size_t size);

/* Whether a descriptor can be read within so many ms. */
bool duct_can_read(int fd, int ms);

#endif
