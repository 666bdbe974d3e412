/* The simulated garden: water, soil, weather, sensors with their faults.
 *
 * Host only, in double precision, and the same for the same seed. It knows
 * nothing of the controller: it feels outputs and answers in raw units, each
 * by the name that the garden file gives it. What it counts is the truth. */
#ifndef CUPLATCH_GARDEN_H
#define CUPLATCH_GARDEN_H

#include <stdbool.h>
#include <stdint.h>
#include <stdio.h>

struct garden;

/* Reads a garden file and sets it up from a seed. Null when the file cannot be
 * opened (errno) or has errors, which go to `errors` then. */
struct garden *garden_read(const char *path, uint32_t seed, FILE *errors);
void garden_close(struct garden *garden);

/* Adds a fault to so many days: "KIND of WHAT at TIME for TIME [AMOUNT]", such
 * as "leak of header at 1d2h for 5h 2L/min". Returns null, or what is wrong
 * with it in words, in a buffer that the next call uses again. */
const char *garden_fault(struct garden *garden, const char *text, double days);

/* Adds what a person does within so many days: "refill VESSEL [VOLUME] at
 * TIME", or a word to the controller, "WORD at TIME"; either may end with
 * "every TIME". Without a volume a vessel is filled to the brim. Returns as
 * garden_fault(). */
const char *garden_visit(struct garden *garden, const char *text, double days);

/* The next word that somebody says to the controller in this second; null when
 * there is no more. And all of them, whenever they are said. */
const char *garden_word(struct garden *garden);
const char *garden_word_at(const struct garden *garden, int i);

/* Adds so many faults at random over so many days. */
void garden_random_faults(struct garden *garden, int count, double days);

/* Begins at that day and time, in s since the year 1970 began. */
void garden_begin(struct garden *garden, uint32_t clock_s);
uint32_t garden_clock_s(const struct garden *garden);

/* One second passes. */
void garden_step(struct garden *garden);

/* Numbers of sensors and outputs by name; -1 when there is none. */
int garden_sensor(const struct garden *garden, const char *name);
int garden_output(const struct garden *garden, const char *name);

/* The raw value of a sensor now. False when it gives no answer. */
bool garden_raw(struct garden *garden, int sensor, int32_t *raw);

/* Whether that was because it came torn. */
bool garden_came_torn(const struct garden *garden, int sensor);

/* The controller puts an output's pin high or low. What that does is the
 * output's own. */
void garden_drive(struct garden *garden, int output, bool high);

/* It sends an output to a place, 0 to 1; one with two lines is driven open
 * while `way` is 1 and shut while it is -1. */
void garden_move(struct garden *garden, int output, double place, int way);

/* It switches the supply of a sensor. */
void garden_supply(struct garden *garden, int sensor, bool on);

/* That many s of the next second have gone by already, for what is quicker. */
void garden_late(struct garden *garden, double late_s);

/* Whether the controller's power was cut since the last call. */
bool garden_was_cut(struct garden *garden);

/* Whether the controller is without power: it does nothing, and all that it
 * drives is off. */
bool garden_is_dark(const struct garden *garden);

/* Whether it came back with its count of ms about to wrap. */
bool garden_wraps(const struct garden *garden);

/* The truth, as it was counted. */
struct garden_bed {
    const char *name;
    double dry_h; /* hours too dry, right, too wet */
    double right_h;
    double wet_h;
    double given_l;
    double used_l; /* by its plants */
    double rain_l;
};

struct garden_vessel {
    const char *name;
    double lowest_l;
    double highest_l;
    double capacity_l;
    double overflow_l;
    double leaked_l;
    double empty_h; /* hours with nothing to draw, and running over */
    double over_h;
    double off_l; /* what its books are off: what came, went and is there */
};

struct garden_pump {
    const char *name;
    unsigned starts;
    double ran_s;
    double dry_s; /* running with no water at its intake */
    double moved_l;
    double spilled_l;       /* past a hose that was off */
    double shortest_rest_s; /* between a stop and the next start */
    double energy_wh;
    bool faulty; /* its relay stuck some time */
};

int garden_beds(const struct garden *garden);
int garden_vessels(const struct garden *garden);
int garden_pumps(const struct garden *garden);
struct garden_bed garden_bed_truth(const struct garden *garden, int i);
struct garden_vessel garden_vessel_truth(const struct garden *garden, int i);
struct garden_pump garden_pump_truth(const struct garden *garden, int i);

/* How full a vessel is now, and where an output is, 0 to 1, by its number. */
double garden_fill(const struct garden *garden, int vessel);
double garden_place(const struct garden *garden, int output);

/* Whether a pump would bring water now, all told. */
bool garden_pump_is_well(const struct garden *garden, const char *name);

/* What goes wrong: begins and ends, in s from the beginning. */
struct garden_trouble {
    const char *kind;
    const char *what;
    double at_s;
    double for_s;
};
int garden_troubles(const struct garden *garden);
struct garden_trouble garden_trouble_truth(const struct garden *garden, int i);

/* What a picture shows beside what the controller believes: the sun, a share of
 * the brightest; rain in mm since the beginning; the air, C. */
struct garden_sky {
    double sun, rain_mm, air;
};
struct garden_sky garden_sky(const struct garden *garden);

/* What a sensor without faults, noise and lag of its own would say now. */
int32_t garden_true_raw(const struct garden *garden, int sensor);

/* All water: what came, and where it is or went, in litres. They agree but
 * for rounding. */
struct garden_balance {
    double in;
    double stored;
    double used;
    double overflowed;
    double leaked;
};
struct garden_balance garden_balance(const struct garden *garden);

#endif
