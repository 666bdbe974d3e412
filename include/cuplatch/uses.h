/* The blocks that a site can do without. All are built unless CUP_USES names a
 * header, such as `bake` writes beside a plan, that sets some to 0; then the
 * core is built for plans of that kind only, and is a good deal smaller. It may
 * name the one site that there is, too, as CUP_ONE_SITE. */
#ifndef CUPLATCH_USES_H
#define CUPLATCH_USES_H

/*   ALERTS     alerts
 *   ALSOS      second conditions of duties
 *   AIR        echoes corrected by a thermometer
 *   AT_ONCE    a limit to pumps that run together, and groups of them
 *   CHECKS     blanking, jump, stuck, debounce, steady; counted pulses
 *   CLOCK      the clock on the wall: times, hours, days by the clock
 *   DAYS       daylight
 *   DOSES      doses
 *   FAILS      outputs that the port may fail to drive: all that shares their
 *              tanks stays off. bake leaves it out of a bare board, whose port
 *              sets pins and has nobody to tell
 *   FLOATS     tanks told by floats
 *   FLOWS      proofs and watches by a value, not by how it changes
 *   FRAMES     sensors whose samples are bytes
 *   JOURNAL    what survives a power cut; for the firmware, the core has no
 *              use of it by itself
 *   LAMPS      bars, status lamps, sounders
 *   LINES      duties that keep the pressure of a line
 *   LOOPS      sensors on a current loop
 *   MEANS      sources whose sensor is smoothed by a mean of all its samples,
 *              which one of them can move a good deal
 *   NAMES      names of things, and so texts
 *   OFFSETS    sensors whose raw values may be negative
 *   PACES      sensors that are asked each at a pace of its own. Without it
 *              all are asked at once, at the pace of the first. bake leaves
 *              it out of a bare board where all have the same
 *   PER_DAYS   limits of a day
 *   PRESSURES  tanks told by pressure or level, not by the distance to them
 *   PROOFS     proof of flow
 *   QUIET      passes in which nothing can happen are skipped, and how long
 *              the caller may sleep is known to the millisecond; without it
 *              a site is looked at once a scan. bake leaves it out of a bare
 *              board, unless a sensor has to warm up
 *   ROUTES     valves that a duty goes through
 *   SETTINGS   settings that change while running
 *   SLACK      passes in which nothing moved far enough to matter are skipped:
 *              faster, for some flash; needs QUIET. bake leaves it out,
 *              since a board has all the time between two passes
 *   SOURCES    blocks of registers
 *   STEERING   steering words: off, hand, auto, clear, hold
 *   SUPPLIES   sensors powered only while they are read
 *   TALLIES    counts of rejected samples, for people to look at: bake leaves
 *              them out, since a board shows them to nobody
 *   TRAVELS    outputs that take their time
 *   TURNS      floods and timed runs
 *   VALUES     values are worked out with every sample. Without it a sensor
 *              keeps the mean of its counts, marks are counts too, and a value
 *              is worked out when it is told or asked for: much faster. bake
 *              leaves it out of a bare board where every mark can be turned
 *              into counts
 *   VOLUMES    a watch for runs that outlast their tank
 *   WATCHES    watches for leaks and stuck relays
 *   WIDE       values that 16 bits cannot hold: pressures, volumes, distances
 *              past 3.2 m. Without it an 8-bit part counts with 16 bits */
#define CUP_BLOCKS(X)                                                          \
    X(AIR)                                                                     \
    X(ALERTS)                                                                  \
    X(ALSOS)                                                                   \
    X(AT_ONCE)                                                                 \
    X(CHECKS)                                                                  \
    X(CLOCK)                                                                   \
    X(DAYS)                                                                    \
    X(DOSES)                                                                   \
    X(FAILS)                                                                   \
    X(FLOATS)                                                                  \
    X(FLOWS)                                                                   \
    X(FRAMES)                                                                  \
    X(JOURNAL)                                                                 \
    X(LAMPS)                                                                   \
    X(LINES)                                                                   \
    X(LOOPS)                                                                   \
    X(MEANS)                                                                   \
    X(NAMES)                                                                   \
    X(OFFSETS)                                                                 \
    X(PACES)                                                                   \
    X(PER_DAYS)                                                                \
    X(PRESSURES)                                                               \
    X(PROOFS)                                                                  \
    X(QUIET)                                                                   \
    X(ROUTES)                                                                  \
    X(SETTINGS)                                                                \
    X(SLACK)                                                                   \
    X(SOURCES)                                                                 \
    X(STEERING)                                                                \
    X(SUPPLIES)                                                                \
    X(TALLIES)                                                                 \
    X(TRAVELS)                                                                 \
    X(TURNS)                                                                   \
    X(VALUES)                                                                  \
    X(VOLUMES)                                                                 \
    X(WATCHES)                                                                 \
    X(WIDE)

enum cup_block {
#define X(name) CUP_BLOCK_##name,
    CUP_BLOCKS(X)
#undef X
        CUP_BLOCK_COUNT
};

#ifdef CUP_USES
#include CUP_USES
#ifdef CUP_ONE_SITE
extern const struct cup_site CUP_ONE_SITE;
#endif
#else
#define CUP_USES_AIR 1
#define CUP_USES_ALERTS 1
#define CUP_USES_ALSOS 1
#define CUP_USES_AT_ONCE 1
#define CUP_USES_CHECKS 1
#define CUP_USES_CLOCK 1
#define CUP_USES_DAYS 1
#define CUP_USES_DOSES 1
#define CUP_USES_FAILS 1
#define CUP_USES_FLOATS 1
#define CUP_USES_FLOWS 1
#define CUP_USES_FRAMES 1
#define CUP_USES_JOURNAL 1
#define CUP_USES_LAMPS 1
#define CUP_USES_LINES 1
#define CUP_USES_LOOPS 1
#define CUP_USES_MEANS 1
#define CUP_USES_NAMES 1
#define CUP_USES_OFFSETS 1
#define CUP_USES_PACES 1
#define CUP_USES_PER_DAYS 1
#define CUP_USES_PRESSURES 1
#define CUP_USES_PROOFS 1
#define CUP_USES_QUIET 1
#define CUP_USES_ROUTES 1
#define CUP_USES_SETTINGS 1
#define CUP_USES_SLACK 1
#define CUP_USES_SOURCES 1
#define CUP_USES_STEERING 1
#define CUP_USES_SUPPLIES 1
#define CUP_USES_TALLIES 1
#define CUP_USES_TRAVELS 1
#define CUP_USES_TURNS 1
#define CUP_USES_VALUES 1
#define CUP_USES_VOLUMES 1
#define CUP_USES_WATCHES 1
#define CUP_USES_WIDE 1
#endif

/* What a plan or a state has of a block, or an expression that needs it; 0,
 * which is false and a null pointer, too, where the block is not built. */
#define CUP_IF(block, has) CUP_IF_BUILT(CUP_USES_##block, has)
#define CUP_IF_BUILT(built, has) CUP_IF_BUILT_(built, has)
#define CUP_IF_BUILT_(built, has) CUP_IF_##built(has)
#define CUP_IF_1(has) (has)
#define CUP_IF_0(has) 0

/* One thing where a block is built, and another where it is not. */
#define CUP_IF_ELSE(block, has, lacks)                                         \
    CUP_IF_ELSE_BUILT(CUP_USES_##block, has, lacks)
#define CUP_IF_ELSE_BUILT(built, has, lacks)                                   \
    CUP_IF_ELSE_BUILT_(built, has, lacks)
#define CUP_IF_ELSE_BUILT_(built, has, lacks) CUP_IF_ELSE_##built(has, lacks)
#define CUP_IF_ELSE_1(has, lacks) (has)
#define CUP_IF_ELSE_0(has, lacks) (lacks)

/* Fields, or what fills them, that are only there where their block is. */
#define CUP_WHERE(block, ...) CUP_WHERE_BUILT(CUP_USES_##block, __VA_ARGS__)
#define CUP_WHERE_BUILT(built, ...) CUP_WHERE_BUILT_(built, __VA_ARGS__)
#define CUP_WHERE_BUILT_(built, ...) CUP_WHERE_##built(__VA_ARGS__)
#define CUP_WHERE_1(...) __VA_ARGS__
#define CUP_WHERE_0(...)

/* ... and those that are only there where it is not. */
#define CUP_UNLESS(block, ...) CUP_UNLESS_BUILT(CUP_USES_##block, __VA_ARGS__)
#define CUP_UNLESS_BUILT(built, ...) CUP_UNLESS_BUILT_(built, __VA_ARGS__)
#define CUP_UNLESS_BUILT_(built, ...) CUP_UNLESS_##built(__VA_ARGS__)
#define CUP_UNLESS_1(...)
#define CUP_UNLESS_0(...) __VA_ARGS__

/* Every sensor gives one number at a time, and is on all the time. */
#define CUP_ALL_PLAIN                                                          \
    (!CUP_USES_FRAMES && !CUP_USES_SOURCES && !CUP_USES_SUPPLIES &&            \
     !CUP_USES_QUIET)

#if !CUP_USES_VALUES &&                                                        \
    (CUP_USES_AIR || CUP_USES_CHECKS || CUP_USES_FLOATS || CUP_USES_LAMPS ||   \
     CUP_USES_MEANS || CUP_USES_PRESSURES || CUP_USES_SETTINGS ||              \
     CUP_USES_SLACK)
#error "these need values at every sample"
#endif

#if !CUP_USES_PACES && !CUP_ALL_PLAIN
#error "these need a pace of each sensor"
#endif

#endif
