/* The guardian: the small parent of a controller. It holds every output, starts
 * the worker that drives them, hears its beat, and makes everything safe when
 * the worker dies, hangs or is told to end. */
#ifndef CUPLATCH_PORTS_GUARDIAN_H
#define CUPLATCH_PORTS_GUARDIAN_H

#include "bus.h"
#include "gpio.h"

/* Lines of a chip that are off at `off`; pumps first, then the rest. */
#define GUARDED_MOST (2 * 32)
struct guarded_lines {
    int held;
    uint64_t mask;
    uint64_t off;
};

/* How a worker ended: it did so by itself with a code, by a signal, or gave no
 * beat. */
enum guardian_why { WORKER_FIRST, WORKER_LEFT, WORKER_KILLED, WORKER_HUNG };

/* What a worker is given.
 *   beat     a byte every second or so, from its main loop: 1 while something
 *            runs that is not to be cut short by files that changed, else 0
 *   alive    can be read once the guardian is gone: then off with all, and end
 *   reign    which worker it is
 *   why, detail  how the one before ended, and its code or signal */
struct worker_life {
    int beat;
    int alive;
    uint32_t reign;
    enum guardian_why why;
    int detail;
};

/*   late_ms    no beat for so long is a hang
 *   pause_ms   before a worker is started again; doubles, to pause_most_ms
 *   finish_ms  so long at the most new files wait for what runs to end
 *   once       the first worker is not followed by another, however it ends
 *   watchdog   of the kernel, open; -1: none
 *   notify     a socket to the service manager, connected; -1: none
 *   work       a worker's life; what it returns is its exit code
 *   may_begin  whether the files are right, after a HUP; called in a child
 *   buses      those that switch are told to be off
 *   code       what the last worker left with, once it has ended */
struct guarded {
    struct guarded_lines lines[GUARDED_MOST];
    size_t line_count;
    struct buses *buses;
    int late_ms;
    int pause_ms;
    int pause_most_ms;
    int finish_ms;
    bool once;
    int watchdog;
    int notify;
    int (*work)(void *self, const struct worker_life *life);
    bool (*may_begin)(void *self);
    void *self;
    int code;
};

/* How it ended: told to; told to begin anew with files that are right; the
 * first worker could not begin; or outputs could not be put off. */
enum guardian_end {
    GUARDIAN_ENDED,
    GUARDIAN_ANEW,
    GUARDIAN_REFUSED,
    GUARDIAN_FAILED
};

/* Runs until it is told to end. From the call on it allocates nothing, and
 * makes no call that waits but for what it waits for. */
enum guardian_end guardian_run(struct guarded *guarded);

#endif
