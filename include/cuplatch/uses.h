/* The blocks that a site can do without. All are built unless CUP_USES names a
 * header, such as `bake` writes beside a plan, that sets some to 0; then the
 * core is built for plans of that kind only, and is a good deal smaller. It may
 * name the one site that there is, too, as CUP_ONE_SITE. */
#ifndef CUPLATCH_USES_H
#define CUPLATCH_USES_H

/* Every block; what each is for stands where its default does. */
#define CUP_BLOCKS(X)                                                          \
    X(AIR)                                                                     \
    X(ALERTS)                                                                  \
    X(ALSOS)                                                                   \
    X(AT_ONCE)                                                                 \
    X(BUTTONS)                                                                 \
    X(CHECKS)                                                                  \
    X(CHOICES)                                                                 \
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
    X(NOTHINGS)                                                                \
    X(OFFSETS)                                                                 \
    X(ONCE)                                                                    \
    X(OWED)                                                                    \
    X(PACES)                                                                   \
    X(PASCALS)                                                                 \
    X(PER_DAYS)                                                                \
    X(PRESSURES)                                                               \
    X(PROOFS)                                                                  \
    X(QUIET)                                                                   \
    X(ROUTES)                                                                  \
    X(SETTINGS)                                                                \
    X(SEVERAL)                                                                 \
    X(SLACK)                                                                   \
    X(SOURCES)                                                                 \
    X(SPANS)                                                                   \
    X(SPEEDS)                                                                  \
    X(STEERING)                                                                \
    X(SUPPLIES)                                                                \
    X(TALLIES)                                                                 \
    X(TRAVELS)                                                                 \
    X(TRIES)                                                                   \
    X(TURNS)                                                                   \
    X(US)                                                                      \
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
#endif

/* Echoes corrected by a thermometer. */
#ifndef CUP_USES_AIR
#define CUP_USES_AIR 1
#endif

/* Alerts. */
#ifndef CUP_USES_ALERTS
#define CUP_USES_ALERTS 1
#endif

/* Second conditions of duties. */
#ifndef CUP_USES_ALSOS
#define CUP_USES_ALSOS 1
#endif

/* A limit to pumps that run together, and groups of them. */
#ifndef CUP_USES_AT_ONCE
#define CUP_USES_AT_ONCE 1
#endif

/* Buttons that stand for words. */
#ifndef CUP_USES_BUTTONS
#define CUP_USES_BUTTONS 1
#endif

/* Blanking, jump, stuck, debounce, steady; counted pulses. */
#ifndef CUP_USES_CHECKS
#define CUP_USES_CHECKS 1
#endif

/* What people choose of duties, and for how long, is kept; needs STEERING. bake
 * leaves it out of boards without names. */
#ifndef CUP_USES_CHOICES
#define CUP_USES_CHOICES CUP_USES_STEERING
#endif

/* The clock on the wall: times, hours, days by the clock. */
#ifndef CUP_USES_CLOCK
#define CUP_USES_CLOCK 1
#endif

/* Daylight. */
#ifndef CUP_USES_DAYS
#define CUP_USES_DAYS 1
#endif

/* Doses. */
#ifndef CUP_USES_DOSES
#define CUP_USES_DOSES 1
#endif

/* Outputs that the port may fail to drive: all that shares their tanks
 * stays off. bake leaves it out of a bare board, whose port sets pins and
 * has nobody to tell. */
#ifndef CUP_USES_FAILS
#define CUP_USES_FAILS 1
#endif

/* Tanks told by floats. */
#ifndef CUP_USES_FLOATS
#define CUP_USES_FLOATS 1
#endif

/* Proofs by a sensor, not by a tank; watches of a value. */
#ifndef CUP_USES_FLOWS
#define CUP_USES_FLOWS 1
#endif

/* Sensors whose samples are bytes. */
#ifndef CUP_USES_FRAMES
#define CUP_USES_FRAMES 1
#endif

/* What survives a power cut; for the firmware, the core has no use of it by
 * itself. */
#ifndef CUP_USES_JOURNAL
#define CUP_USES_JOURNAL 1
#endif

/* Bars, status lamps, sounders. */
#ifndef CUP_USES_LAMPS
#define CUP_USES_LAMPS 1
#endif

/* Duties that keep the pressure of a line. */
#ifndef CUP_USES_LINES
#define CUP_USES_LINES 1
#endif

/* Sensors on a current loop. */
#ifndef CUP_USES_LOOPS
#define CUP_USES_LOOPS 1
#endif

/* Sources whose sensor is smoothed by a mean of all its samples, which one
 * of them can move a good deal. */
#ifndef CUP_USES_MEANS
#define CUP_USES_MEANS 1
#endif

/* Names of things, and so texts. */
#ifndef CUP_USES_NAMES
#define CUP_USES_NAMES 1
#endif

/* Raw codes by which a sensor says that it sees nothing. */
#ifndef CUP_USES_NOTHINGS
#define CUP_USES_NOTHINGS 1
#endif

/* Sensors whose raw values may be negative. */
#ifndef CUP_USES_OFFSETS
#define CUP_USES_OFFSETS 1
#endif

/* What comes and goes is told at the soonest once every repeat. */
#ifndef CUP_USES_ONCE
#define CUP_USES_ONCE 1
#endif

/* What is owed of floods and timed runs is missed in the end, and told. bake
 * leaves it out of boards without names. */
#ifndef CUP_USES_OWED
#define CUP_USES_OWED 1
#endif

/* Sensors that are asked each at a pace of its own. Without it all are
 * asked at once, at the pace of the first. bake leaves it out of a bare
 * board where all have the same. */
#ifndef CUP_USES_PACES
#define CUP_USES_PACES 1
#endif

/* Limits of a day. */
#ifndef CUP_USES_PER_DAYS
#define CUP_USES_PER_DAYS 1
#endif

/* Sensors of pressure, which is read in bar. */
#ifndef CUP_USES_PASCALS
#define CUP_USES_PASCALS 1
#endif

/* Tanks told by pressure or level, not by the distance to them. */
#ifndef CUP_USES_PRESSURES
#define CUP_USES_PRESSURES 1
#endif

/* Proof of flow. */
#ifndef CUP_USES_PROOFS
#define CUP_USES_PROOFS 1
#endif

/* Passes in which nothing can happen are skipped, and how long the caller
 * may sleep is known to the millisecond; without it a site is looked at
 * once a scan. bake leaves it out of a bare board, unless a sensor has to
 * warm up. */
#ifndef CUP_USES_QUIET
#define CUP_USES_QUIET 1
#endif

/* Valves that a duty goes through. */
#ifndef CUP_USES_ROUTES
#define CUP_USES_ROUTES 1
#endif

/* Settings that change while running. */
#ifndef CUP_USES_SETTINGS
#define CUP_USES_SETTINGS 1
#endif

/* Passes in which nothing moved far enough to matter are skipped: faster,
 * for some flash; needs QUIET. bake leaves it out, since a board has all
 * the time between two passes. */
#ifndef CUP_USES_SLACK
#define CUP_USES_SLACK 1
#endif

/* Blocks of registers. */
#ifndef CUP_USES_SOURCES
#define CUP_USES_SOURCES 1
#endif

/* Steering words: off, hand, auto, clear, hold. */
#ifndef CUP_USES_STEERING
#define CUP_USES_STEERING 1
#endif

/* Sensors powered only while they are read. */
#ifndef CUP_USES_SUPPLIES
#define CUP_USES_SUPPLIES 1
#endif

/* Counts of rejected samples, for people to look at: bake leaves them out,
 * since a board shows them to nobody. */
#ifndef CUP_USES_TALLIES
#define CUP_USES_TALLIES 1
#endif

/* Outputs that take their time. */
#ifndef CUP_USES_TRAVELS
#define CUP_USES_TRAVELS 1
#endif

/* A run that reaches its longest trips the duty, not its pump. bake leaves it
 * out of a board without names where each pump has but one. */
#ifndef CUP_USES_TRIES
#define CUP_USES_TRIES 1
#endif

/* Floods and timed runs. */
#ifndef CUP_USES_TURNS
#define CUP_USES_TURNS 1
#endif

/* Values are worked out with every sample. Without it a sensor keeps the
 * mean of its counts, marks are counts too, and a value is worked out when
 * it is told or asked for: much faster. bake leaves it out of a bare board
 * where every mark can be turned into counts. */
#ifndef CUP_USES_VALUES
#define CUP_USES_VALUES 1
#endif

/* Sensors that are made of others. */
#ifndef CUP_USES_SEVERAL
#define CUP_USES_SEVERAL 1
#endif

/* Levels of tanks as spans: what leapt is not believed at once. */
#ifndef CUP_USES_SPANS
#define CUP_USES_SPANS 1
#endif

/* Outputs that are driven in part, by a level. */
#ifndef CUP_USES_SPEEDS
#define CUP_USES_SPEEDS 1
#endif

/* Numbers for people in gallons, inches, degrees Fahrenheit and pounds per
 * square inch. */
#ifndef CUP_USES_US
#define CUP_USES_US 1
#endif

/* A watch for runs that outlast their tank. */
#ifndef CUP_USES_VOLUMES
#define CUP_USES_VOLUMES 1
#endif

/* Watches for leaks and stuck relays. */
#ifndef CUP_USES_WATCHES
#define CUP_USES_WATCHES 1
#endif

/* Values that 16 bits cannot hold: pressures, volumes, distances past 3.2
 * m. Without it an 8-bit part counts with 16 bits. */
#ifndef CUP_USES_WIDE
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

/* Fields, or what fills them, that are only there where their block is not. */
#define CUP_UNLESS(block, ...) CUP_UNLESS_BUILT(CUP_USES_##block, __VA_ARGS__)
#define CUP_UNLESS_BUILT(built, ...) CUP_UNLESS_BUILT_(built, __VA_ARGS__)
#define CUP_UNLESS_BUILT_(built, ...) CUP_UNLESS_##built(__VA_ARGS__)
#define CUP_UNLESS_1(...)
#define CUP_UNLESS_0(...) __VA_ARGS__

/* Every sensor gives one number at a time, and is on all the time. */
#define CUP_ALL_PLAIN                                                          \
    (!CUP_USES_FRAMES && !CUP_USES_SOURCES && !CUP_USES_SUPPLIES &&            \
     !CUP_USES_QUIET && !CUP_USES_SEVERAL)

#if !CUP_USES_VALUES &&                                                        \
    (CUP_USES_AIR || CUP_USES_CHECKS || CUP_USES_FLOATS || CUP_USES_LAMPS ||   \
     CUP_USES_MEANS || CUP_USES_PRESSURES || CUP_USES_SETTINGS ||              \
     CUP_USES_SEVERAL || CUP_USES_SLACK || CUP_USES_SPANS || CUP_USES_SPEEDS)
#error "these need values at every sample"
#endif

#if !CUP_USES_PACES && !CUP_ALL_PLAIN
#error "these need a pace of each sensor"
#endif

#endif
