/* A loop as an engineer writes it: stale and stuck sensors are lost, a pump
 * must show that it moves water, one runs at a time, each run has its limit. */
#ifndef CUPLATCH_EXAMPLES_ENGINEER_H
#define CUPLATCH_EXAMPLES_ENGINEER_H

#include "loops.h"

/* What is known of one ranger: a median of nine. */
#define ENGINEER_WINDOW 9
struct engineer_sight {
    double window[ENGINEER_WINDOW];
    int count;
    int32_t raw;
    uint32_t good_s, changed_s;
};

/* One pump: since when it is as it is, and what its source stood at. */
struct engineer_drive {
    bool on;
    int trips;
    uint32_t since_s, proof_s, locked_s;
    double base_mm;
};

/* All zero is the beginning. */
struct engineer {
    struct engineer_sight cistern, header;
    struct engineer_drive lift, bed_pump, tray_pump;
    bool cistern_low, header_low, filling, watering, flooding, flooded;
    int doses;
    uint32_t soil_s, dose_s, flood_s;
    double soil;
};

/* One second of it. */
void engineer_step(struct engineer *engineer, const struct yard *yard,
                   uint32_t s);

#endif
