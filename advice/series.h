/* What a sensor said over days, and what kind of sensor that makes it: how much
 * it scatters, its spikes, how long it says the same, how long nothing. */
#ifndef CUPLATCH_ADVICE_SERIES_H
#define CUPLATCH_ADVICE_SERIES_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

/* Samples of one sensor, in order; `at_ms` counts from the first row. */
struct series_sample {
    uint64_t at_ms;
    int32_t raw;
};

struct series {
    struct series_sample *list;
    size_t count;
    size_t size;
    uint64_t asked;     /* samples, whether it answered or not */
    uint64_t silent_ms; /* the longest without an answer */
    uint64_t last_ms;   /* of an answer */
};

/* What it comes to, in raw counts.
 *   noise   one standard deviation, by the median of what each sample is away
 *           from its neighbours
 *   low, high  of what is no spike
 *   spikes, in_a_row  samples far off their neighbours, and as many of them
 *           as come one after the other, but for what is rare
 *   same_ms the longest time that it said exactly the same */
struct series_facts {
    double noise;
    int32_t low, high;
    uint64_t spikes;
    unsigned in_a_row;
    uint64_t same_ms;
    uint64_t silent_ms;
    double unanswered; /* the share of those asked */
    double spiky;      /* the share of spikes among answers */
};

/* So many neighbours are looked at, itself included. */
#define SERIES_NEIGHBOURS 11

/* An answer, or none. */
void series_add(struct series *series, uint64_t at_ms, int32_t raw);
void series_miss(struct series *series, uint64_t at_ms);
/* How often nothing was said for longer than this. */
size_t series_silences(const struct series *series, uint64_t ms);

void series_free(struct series *series);

/* False while there are too few samples to tell anything. */
#define SERIES_LEAST 200
bool series_look(const struct series *series, struct series_facts *facts);

#endif
