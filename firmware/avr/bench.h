/* A board on a bench: an image of examples/board runs in simavr against sensors
 * that answer, and somebody is at its serial line. */
#ifndef CUPLATCH_FIRMWARE_BENCH_H
#define CUPLATCH_FIRMWARE_BENCH_H

#include <simavr/sim_avr.h>
#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

#define BENCH_HZ 16000000

struct bench;

struct bench_echo {
    struct bench *bench;
    avr_irq_t *pin;
    uint32_t width_us;
    bool was_high;
};

/*   line   what the board said last; `heard` is called with each, and owns
 *          what `self` is
 *   check  called after every instruction; may be null
 *   booted cycles at the last reset */
struct bench {
    avr_t *avr;
    void (*heard)(struct bench *bench);
    void (*check)(struct bench *bench);
    void *self;
    char line[200];
    size_t used;
    uint64_t booted;
    unsigned wrong;
    struct bench_echo echoes[2];
};

/* Puts the image at `path` on a part; false when there is no such. */
bool bench_begin(struct bench *bench, const char *part, const char *path);

/* Lets it run for so many cycles. */
void bench_run(struct bench *bench, uint64_t cycles);

/* Pulls the plug and puts it back. */
void bench_cut(struct bench *bench);

/* Types to the board, a byte each 5 ms. */
void bench_type(struct bench *bench, const char *text);

/* Relays that are on, as bits of the part's port D. */
unsigned bench_relays(const struct bench *bench);

/* Tells, and counts, what must not be. */
void bench_wrong(struct bench *bench, const char *what);

#endif
