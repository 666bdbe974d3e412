/* What is said between a bus and those who ask it, shared by the two ends. */
#ifndef CUPLATCH_PORTS_BUS_INSIDE_H
#define CUPLATCH_PORTS_BUS_INSIDE_H

#include "bus.h"

enum bus_verb { BUS_READ, BUS_WRITE, BUS_OFF };

struct bus_word {
    uint32_t ticket;
    uint32_t reign;
    uint16_t duct;
    uint8_t verb;
    uint8_t high;
};

struct bus_answer {
    uint32_t ticket;
    uint32_t reign;
    uint8_t done;
    struct reply heard;
};

/* The life of a bus's process: it ends with whoever asks it. */
void bus_serve(struct bus *bus) __attribute__((noreturn));

#endif
