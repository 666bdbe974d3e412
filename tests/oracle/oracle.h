/* An independent oracle: random sites, a garden of its own, and the rules that
 * a controller must keep, written down from what it promises and not from how
 * it does it. It sees what any program at the other end sees: raw values and
 * words go in, outputs and levels come out. */
#ifndef CUPLATCH_TESTS_ORACLE_H
#define CUPLATCH_TESTS_ORACLE_H

#include <stdbool.h>
#include <stdint.h>

#include "../harness/harness.h"

enum { TANKS = 2, PUMPS = 4, VALVES = 2, DUTIES = 5, OUTPUTS = PUMPS + VALVES };
enum { SENSORS = TANKS + DUTIES, LEVELS = SENSORS + TANKS };
#define NOBODY (-1)

/* Levels are hundredths of a per cent, times are ms. What is not given is 0;
 * tanks are numbers, NOBODY for none. */
struct pump {
    int from;
    int into;
    int dry_below;
    int dry_clear;
    int full_at;
    uint32_t rest;
    uint32_t shortest;
    uint32_t longest;
    uint32_t retry;
    int tries;
    uint32_t per_day;
    int day_starts;
    uint32_t hand_limit;
    uint32_t proof; /* after so long the meter must say that it moves water */
};

/* The meter of all of them: a sensor, and its mark. */
enum { METER = 2, METER_LEAST = 3000 };

enum what { KEEPS, DOSES, FLOODS };

struct duty {
    enum what what;
    int pump;
    int valve;
    int level; /* what it keeps, by the number of a level */
    int start;
    int stop;
    uint32_t confirm;
    uint32_t dose;
    uint32_t soak;
    int doses;
    uint32_t flood;
    uint32_t every;
    uint32_t apart;
    uint32_t least;
};

struct own_site {
    struct pump pumps[PUMPS];
    struct duty duties[DUTIES];
    uint32_t lost_after;
    uint32_t late;
    uint32_t boot_wait;
    uint32_t believe;
    int at_once;
    bool smooth;
    char text[8000];
};

void site_make(struct own_site *site, struct chance *chance);

/* Names of outputs, duties, and levels: sensors, then tanks. */
extern const char *const output_names[OUTPUTS];
extern const char *const duty_names[DUTIES];
extern const char *const level_names[LEVELS];
/* The level of a tank. */
#define TANK(tank) (SENSORS + (tank))

/* What goes in and what comes out of one pass. A raw value below 0 is no
 * answer. `failing`: the port cannot drive that output. */
struct into {
    uint32_t t_ms;
    int raw[SENSORS];
    const char *word;
    bool failing[OUTPUTS];
};

struct view {
    bool on[OUTPUTS];
    int level[LEVELS];
    int low[LEVELS]; /* what it may be, of a tank; of a sensor its level */
    int high[LEVELS];
    bool known[LEVELS];
    bool sound[LEVELS]; /* ... and something is believed of it */
    bool taken;         /* the word, if there was one */
};

/* A controller under test: booted with what it kept, stepped, its power cut at
 * any moment, ended. */
struct driver {
    const char *name;
    bool can_fail;       /* its outputs can be made to fail */
    uint32_t forgets_ms; /* how much of an age a power cut may cost */
    void (*boot)(const struct own_site *site, bool anew);
    void (*step)(const struct into *into, struct view *view);
    void (*cut)(void);
    void (*end)(struct view *view);
};
extern const struct driver by_calls;
extern const struct driver by_lines;

/* The rules. Each broken one is a failed check that names it. */
void rules_begin(const struct own_site *site, const struct driver *driver);
void rules_boot(uint64_t now_ms);
void rules_look(uint64_t now_ms, const struct into *into,
                const struct view *view);

#endif
