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
 *   FLOATS     tanks told by floats
 *   FLOWS      proofs and watches by a value, not by how it changes
 *   FRAMES     sensors whose samples are bytes
 *   JOURNAL    what survives a power cut; for the firmware, the core has no
 *              use of it by itself
 *   LAMPS      bars, status lamps, sounders
 *   LOOPS      sensors on a current loop
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
 *   VOLUMES    a watch for runs that outlast their tank
 *   WATCHES    watches for leaks and stuck relays */
#define CUP_BLOCKS(X)                                                          \
    X(ALERTS)                                                                  \
    X(ALSOS)                                                                   \
    X(AIR)                                                                     \
    X(AT_ONCE)                                                                 \
    X(CHECKS)                                                                  \
    X(CLOCK)                                                                   \
    X(DAYS)                                                                    \
    X(DOSES)                                                                   \
    X(FLOATS)                                                                  \
    X(FLOWS)                                                                   \
    X(FRAMES)                                                                  \
    X(JOURNAL)                                                                 \
    X(LAMPS)                                                                   \
    X(LOOPS)                                                                   \
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
    X(VOLUMES)                                                                 \
    X(WATCHES)

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
enum {
#define X(name) CUP_USES_##name = 1,
    CUP_BLOCKS(X)
#undef X
};
#endif

/* What a plan has of a block; nothing where the block is not built. */
#define CUP_IF(block, has) (CUP_USES_##block && (has))

#endif
