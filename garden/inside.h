/* What the files of the garden share. */
#ifndef CUPLATCH_GARDEN_INSIDE_H
#define CUPLATCH_GARDEN_INSIDE_H

#include "fao56.h"
#include "garden.h"

#include <stddef.h>

#define NAME_SIZE 32
#define PARTS_MOST 32 /* of each kind of thing */
#define SENSORS_MOST 64
#define FAULTS_MOST 256
#define DEPTHS 128   /* entries of a vessel's table */
#define PIPE_MOST 64 /* s of delay */
#define VISITS_MOST 64
#define VISIT_SIZE 96

/* Where water can be. */
enum place_kind { NOWHERE, VESSEL, BED };

struct where {
    enum place_kind kind;
    int index;
};

struct weather {
    double latitude;
    double warm;    /* mean of a year, C */
    double seasons; /* how far the warmest weeks are above that */
    double swing;   /* from the coldest to the warmest of a usual day */
    double clouds;  /* mean share of the sky */
    double showers; /* a day on the mean, and mm of each */
    double shower_mm;
    /* of this day */
    int day; /* of the year; -1: none yet */
    double mean, coldest, mean_sun;
    double taps_day, taps_night; /* how taps run then, of their mean */
    double et0_mm_day;
    /* now */
    bool is_wet; /* a spell of showers */
    double cloud;
    double air;
    double vapour; /* kPa */
    double damp;   /* per cent */
    double sun;    /* share of the brightest */
    double panel;  /* the same on what leans by the latitude, towards noon */
    double rain_mm_s;
    double shower_left_s;
    double et0_mm_s;
};

/* kg of vapour in a m3: in it, at saturation, and of the air outside. */
struct tunnel {
    double air, damp;
    double vapour_kg, full_kg, film_kg, out_kg;
};

struct vessel {
    char name[NAME_SIZE];
    int shape; /* 0 upright, 1 box, 2 lying */
    double diameter, length, width, depth;
    double capacity;
    double litres;
    double roof_m2;           /* rain runs in from so much */
    double fed_l_s;           /* by a spring or a float valve, until full */
    double used_l_day;        /* by taps, by day */
    double float_band_mm;     /* a float valve shuts within this; 0: none */
    double drains_l_min;      /* a tray's: back into another vessel, or away */
    int back;                 /* that vessel; -1: away */
    double table[DEPTHS + 1]; /* depth in mm by share of volume */
    double leak_l_s;
    struct garden_vessel truth;
    double opens_l, shuts_l, empty_l; /* see vessel_shape() */
    double empty_s, over_s;
    double begun_l, came_l, went_l; /* its own books */
    double overflow_before_l;
    double used_l;
    double rain_l;
    double fed_l;
    double ripple_mm;
    double intake_mm; /* the highest of what draws from it; -1: nothing does */
    bool is_open;     /* its float valve */
};

struct bed {
    char name[NAME_SIZE];
    double area_m2, roots_mm;
    const struct fao56_soil *soil;
    double crop;  /* Kc */
    double table; /* p of the table, and of this day */
    double ready;
    int day;
    double dry_mm, wet_mm; /* the water that is right is between */
    double soaks_mm_s;
    double drains_s, follows_s; /* shares in a s */
    double dry_s, right_s, wet_s;
    double water_mm; /* in the root zone, and on top of it */
    double pool_mm;
    double seen_mm; /* what a probe at its depth feels of it */
    double drained_mm, used_mm, rain_mm;
    struct garden_bed truth;
};

/* A pump's, valve's, fan's: whatever is driven. */
struct output {
    char name[NAME_SIZE];
    bool is_pump;
    struct where from, into[2];
    int valve[2]; /* outputs that let into those; -1: always */
    double flow_l_s, intake_mm, primes_s, head_m, rises_m, power_w;
    int pipe_s;
    bool active_low; /* what switches it on */
    bool two_lines;  /* one that opens, one that shuts it */
    bool in_part; /* it may turn slowly; else it is on for part of a second */
    double pace;  /* of its way in a s */
    double goal;  /* what the controller drives it to: 0 to 1 */
    double drove; /* what it was driven to in this second, until at_s of it */
    double at_s;
    int way;      /* of two lines: 1 opens, -1 shuts, 0 neither */
    double place; /* where it is: 0 to 1 */
    double primed_s, since_stop_s;
    double pipe[PIPE_MOST];
    double pressure_pa;
    bool was_on;
    bool stuck_on, stuck_off, dead, air, blocked, hose_off;
    bool into_line; /* ends at a float valve */
    struct garden_pump truth;
};

enum sensor_kind {
    S_PROBE,
    S_ECHO,
    S_WORD,
    S_PRESSURE,
    S_FLOAT,
    S_LIGHT,
    S_AIR,
    S_DAMP,
    S_TUNNEL,
    S_TUNNEL_DAMP,
    S_BATTERY,
    S_DEPTH,
    S_FLOW,
    S_KINDS
};

struct sensor {
    char name[NAME_SIZE];
    int kind;
    int of;                 /* a bed, a vessel or an output */
    double low, high;       /* raw at 0 and at full scale */
    double full;            /* what full scale is, in the unit of the truth */
    double noise;           /* raw, one standard deviation */
    double missing, spikes; /* shares of samples */
    double gap_mm, mark_mm;
    double upright; /* of a beam that leans: the cosine */
    double drift;   /* raw, now */
    uint64_t chance;
    bool is_stuck, is_lost, is_shorted;
    bool is_rung, is_spider, is_floor, is_leap, is_puddle;
    double foam; /* how much of its tank's depth has grown on the water */
    double rung_until_s; /* the rung is heard, or the water is, until then */
    bool rung_heard;
    bool is_torn;     /* most frames come broken */
    bool is_bouncing; /* a float in waves */
    bool dips;        /* each start of a pump takes its supply away */
    bool came_torn;   /* the last one */
    bool is_missing;  /* a row of samples that do not come */
    bool switched;    /* its supply is the controller's to switch */
    double warms_s;   /* how long until it is right then */
    double fed_at_s;  /* since when it is on; -1: it is off */
    int32_t last;
};

struct fault {
    int kind;
    int index;
    double at_s, for_s, amount;
    bool on;
};

/* What a person does: refills a vessel, or says a word to the controller. */
struct visit {
    char word[VISIT_SIZE]; /* empty: a refill */
    int vessel;
    double litres; /* 0: to the brim */
    double at_s, every_s;
};

struct garden {
    uint64_t weather_chance;
    uint64_t fault_chance;
    uint32_t clock_s;
    double now_s;
    struct weather weather;
    struct vessel vessels[PARTS_MOST];
    struct bed beds[PARTS_MOST];
    struct output outputs[PARTS_MOST];
    struct sensor sensors[SENSORS_MOST];
    struct fault faults[FAULTS_MOST];
    struct visit visits[VISITS_MOST];
    int vessel_count, bed_count, output_count, sensor_count, fault_count;
    int visit_count;
    int word;      /* the last of the visits that was asked for */
    double late_s; /* of the next second that has gone by already */
    struct tunnel tunnel;
    int vent, fan;
    double battery_v;
    double solar_w;
    double spilled_l; /* past hoses, and off the ends of pipes */
    double begun_l;   /* stored at the start */
    double refilled_l;
    double rain_mm;
    double dip_s; /* when a pump last started */
    bool was_cut;
    bool dark;  /* the controller has no power */
    bool wraps; /* the controller's count of ms is about to */
};

/* Like fmin() and fmax(), for numbers only: they cost one instruction. */
static inline double least(double a, double b)
{
    return a < b ? a : b;
}

static inline double most(double a, double b)
{
    return a > b ? a : b;
}

/* Chances: 0 to 1, and a normal one of standard deviation 1. Weather, faults
 * and each sensor have a row of their own, so that no weather depends on how
 * often a sensor is asked. */
double garden_chance(uint64_t *chance);
double garden_normal(uint64_t *chance);

void garden_weather_begin(struct garden *garden);
void garden_weather_step(struct garden *garden);
void garden_tunnel_begin(struct garden *garden);
void garden_tunnel_step(struct garden *garden);

void vessel_shape(struct vessel *vessel);
double vessel_depth(const struct vessel *vessel);
void vessel_add(struct vessel *vessel, double litres);
double vessel_take(struct vessel *vessel, double litres);
void garden_water_step(struct garden *garden);
void garden_soil_step(struct garden *garden, struct bed *bed);
void garden_faults_step(struct garden *garden);
void garden_visits_step(struct garden *garden);
double garden_stored(const struct garden *garden);

/* A time such as 1d2h in s; -1 when it is none. */
double garden_seconds(const char *text);

int garden_find(const struct garden *garden, enum place_kind kind,
                const char *name);

#endif
