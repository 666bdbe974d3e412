/* One number for a site file, and why. */
#ifndef CUPLATCH_ADVICE_PROPOSAL_H
#define CUPLATCH_ADVICE_PROPOSAL_H

#include <stdbool.h>

/*   looser  it lets more pass than the file does now */
struct proposal {
    char key[16];
    char value[72];
    char why[320];
    bool looser;
};

/* The most of one thing. */
#define PROPOSALS_MOST 6

#endif
