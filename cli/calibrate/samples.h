/* Samples for a calibration: given as an option, typed at the terminal, or
 * taken from the lines stream. */
#ifndef CUPLATCH_CLI_CALIBRATE_SAMPLES_H
#define CUPLATCH_CLI_CALIBRATE_SAMPLES_H

#include <stdbool.h>
#include <stdio.h>

#include "../../ports/lines/reader.h"

#define SAMPLES_MOST 1000
#define SAMPLES_LEAST 3
/* Fewer than this are worked with, and said to be few. */
#define SAMPLES_FEW 10

/* One end of a calibration: what it is called, and what was read there. */
struct end {
    const char *name;  /* "dry" */
    const char *given; /* "2900,2910,2905", or null */
    char value[24];    /* of a known point: "30%" */
    double samples[SAMPLES_MOST];
    size_t count;
    double mean;
    double noise;
    double low;
    double high;
    char wrong[24]; /* a word that is no sample */
};

/* Where samples come from when they are not given. */
struct sampling {
    struct reader in;
    FILE *answers;      /* where a person answers; null when nobody is asked */
    const char *sensor; /* its name */
    size_t wanted;
    bool lines; /* of the stream, not typed */
};

/* Asks for the known value of an end. False when nobody answers. */
bool samples_ask_value(struct sampling *sampling, struct end *end,
                       const char *example);

/* Takes the samples of an end and works out what they come to. False when they
 * are too few or one is no whole number: `wrong` names it. */
bool samples_take(struct sampling *sampling, struct end *end);

/* Whether a person agrees to a question. */
bool samples_agreed(struct sampling *sampling, const char *question);

#endif
