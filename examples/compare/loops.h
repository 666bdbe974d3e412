/* Two loops as growers write them, for the comparison: honest and competent,
 * each of its kind. They read raw values and switch outputs of a garden. */
#ifndef CUPLATCH_EXAMPLES_LOOPS_H
#define CUPLATCH_EXAMPLES_LOOPS_H

#include "../../garden/garden.h"

/* The numbers of what both use. */
struct yard {
    struct garden *garden;
    int soil, cistern, header, sky, tray_float;
    int lift, bed_pump, tray_pump;
};

struct yard yard_of(struct garden *garden);

/* Raw values into what they mean, with the numbers a grower has measured. */
double yard_soil_pct(int32_t raw);
double yard_depth_mm(int32_t echo_us, double face_mm);

/* One second of a beginner's loop: the latest raw sample, one mark, no
 * guards. `s` is the second since it began. */
void beginner_step(const struct yard *yard, uint32_t s);

/* Takes a value into a window of `most`; its median, 0 of none. */
#define LOOPS_WINDOW_MOST 9
void loops_keep(double *window, int *count, int most, double value);
double loops_median(const double *window, int count);

/* What the careful loop remembers. */
#define CAREFUL_WINDOW 5
struct careful {
    double cistern[CAREFUL_WINDOW], header[CAREFUL_WINDOW];
    int cistern_count, header_count;
    bool low, filling, watering;
    uint32_t water_s, last_flood_s, lift_s;
    bool flooding, flooded;
};

/* One second of a careful hand-written loop: a median of five, two marks, a
 * check that the source is not low, a limit on each run. */
void careful_step(struct careful *careful, const struct yard *yard, uint32_t s);

#endif
