/* A pump (or valve, fan, lamp) and its guards: the last word.
 *
 * A pump starts when it is wanted, no guard says no, its rest is over and it
 * is not tripped. A guard can only say no, and acts on a running pump in the
 * same pass. A run that reaches its longest is a trip: the pump tries again
 * after a pause, so many times, then it is locked until a person clears it.
 *
 * In use:
 *
 *     const struct cup_pump lift = {.rest_ms = 90000, .longest_ms = 900000};
 *     struct cup_pump_state state = {0};
 *     cup_pump_boot(&state, now_ms);
 *     cup_pump_age(&lift, &state, now_ms, 10000);
 *     if (is_wanted && !cup_pump_is(&state, CUP_PUMP_IS_ON) &&
 *         cup_pump_ready(&state))
 *         cup_pump_start(&state, now_ms); */
#ifndef CUPLATCH_PUMP_H
#define CUPLATCH_PUMP_H

#include "per_day.h"
#include "proof.h"
#include "reason.h"
#include "sensor.h"
#include "travel.h"

CUP_C_BEGINS

/* What a pump shows, weakest first. */
#define CUP_PUMP_SHOWS(X)                                                      \
    X(OFF, "off")                                                              \
    X(RUNNING, "running")                                                      \
    X(WAITING, "waiting")                                                      \
    X(RESTING, "resting")                                                      \
    X(BLOCKED, "blocked")                                                      \
    X(TRIPPED, "tripped")

enum cup_pump_show {
#define X(name, code) CUP_PUMP_##name,
    CUP_PUMP_SHOWS(X)
#undef X
        CUP_PUMP_SHOW_COUNT
};

/* The three positions of a pump's switch. */
#define CUP_MODES(X)                                                           \
    X(AUTO, "auto")                                                            \
    X(OFF, "off")                                                              \
    X(HAND, "hand")

enum cup_mode {
#define X(name, code) CUP_MODE_##name,
    CUP_MODES(X)
#undef X
        CUP_MODE_COUNT
};

/* One guard: past `mark` it says no, and goes on until past `clear` the other
 * way; it says no, too, while the reading is lost or unknown. `about` is the
 * thing it looks at. The values of the marks are told of. `rate` is what the
 * pump moves of a tank with a span: see CUP_SPAN_PARTS. */
struct cup_guard {
    cup_mark mark;
    cup_mark clear;
    CUP_UNLESS(VALUES, cup_value mark_value;)
    CUP_UNLESS(VALUES, cup_value clear_value;)
    cup_index about;
    uint8_t kind;
    CUP_WHERE(SPANS, uint32_t rate;)
};

/* What the grower decided about a pump.
 *   rest_ms        between a stop and the next start
 *   longest_ms     of one run; 0 is no limit
 *   retry_ms       from a trip to the next try
 *   hand_limit_ms  the longest hand run
 *   guards         its guards, guard_count of them; the first no counts
 *   shortest_ms    a run goes on this long though nothing wants it any more;
 *                  guards, losses and people do not wait for it
 *   per_day        its limits of a day; null when it has none, per_day_own the
 *                  number of its state
 *   proof          that water moves; null when it has none, and proof_own the
 *                  number of its state
 *   travel         it takes its time to open and shut; null: at once
 *   travel_own     the number of that state
 *   group          of the plan's groups; CUP_NONE: none
 *   retries        tries after a trip before it is locked
 *   active_low     the output's pin is low when the pump runs
 *   positional     its output is a place, not on or off
 *   uncounted      at_once of the site does not count it: it is no pump */
struct cup_pump {
    uint32_t rest_ms;
    uint32_t longest_ms;
    uint32_t retry_ms;
    CUP_WHERE(STEERING, uint32_t hand_limit_ms;)
    uint32_t shortest_ms;
    CUP_WHERE(PER_DAYS, CUP_FLASH struct cup_per_day *per_day;)
    CUP_FLASH struct cup_guard *guards;
    CUP_WHERE(PROOFS, CUP_FLASH struct cup_proof *proof;)
    CUP_WHERE(TRAVELS, CUP_FLASH struct cup_travel *travel;)
    CUP_WHERE(TRAVELS, cup_index travel_own;)
    CUP_WHERE(AT_ONCE, cup_index group;)
    CUP_WHERE(PROOFS, cup_index proof_own;)
    CUP_WHERE(PER_DAYS, cup_index per_day_own;)
    uint8_t guard_count;
    uint8_t retries;
    bool active_low;
    CUP_WHERE(TRAVELS, bool positional;)
    bool uncounted;
};

/*   since_ms  the last start or stop
 *   hand_ms   when a hand run began, and hand_for_ms for how long; after one
 *             that ended by itself, when it did, till that is told. Else when
 *             the pump started
 *   flags     CUP_PUMP_IS_...
 *   duty      which duty drives it, or the last that did
 *   trips     failed runs in a row
 *   no        the reason of the guard that says no now, or NONE
 *   told      the reason of the block that was told and is not over
 *   guarded   what each guard remembers: that it said no, and was not clear
 *             since; a bit each, by its kind */
struct cup_pump_state {
    uint32_t since_ms;
    CUP_WHERE(STEERING, uint32_t hand_ms;)
    CUP_WHERE(STEERING, uint32_t hand_for_ms;)
    uint16_t flags;
    cup_index duty;
    uint8_t mode;
    uint8_t trips;
    uint8_t no;
    uint8_t told;
    uint8_t guarded;
#if CUP_NONE > UINT8_MAX
    uint8_t spare[3];
#endif
};
#ifndef __AVR__
CUP_ASSERT(sizeof(struct cup_pump_state) ==
               (CUP_NONE > UINT8_MAX ? 16 : 12) + 8 * CUP_USES_STEERING,
           "state has no padding");
#endif

enum {
    CUP_PUMP_IS_ON = 1,
    CUP_PUMP_IS_RESTING = 2,
    CUP_PUMP_IS_BOOTING = 4,
    CUP_PUMP_IS_TRIPPED = 8,
    CUP_PUMP_IS_LOCKED = 16,
    CUP_PUMP_IS_WANTED = 32,
    CUP_PUMP_IS_STEERED = 64,   /* its mode changed and was not told */
    CUP_PUMP_IS_CLEARED = 128,  /* it was cleared and that was not told */
    CUP_PUMP_WAS_OFF = 256,     /* a hand run returns to off, not to auto */
    CUP_PUMP_IS_AFRESH = 512,   /* its duties are to look afresh */
    CUP_PUMP_SAID_OFF = 1024,   /* off was said, and something after it */
    CUP_PUMP_PAST_STOP = 2048,  /* by hand past a stop mark: that was told */
    CUP_PUMP_IS_FAILING = 4096, /* the port cannot drive its output */
    CUP_PUMP_FAIL_TOLD = 8192,  /* ... and that was told */
    CUP_PUMP_IS_ROUTE = 16384,  /* a duty wants it open, for its pump */
    CUP_PUMP_IS_MOVING = 32768, /* it has not arrived */

    /* Its output is on, or may be: the port cannot drive it. */
    CUP_PUMP_MAY_RUN = CUP_PUMP_IS_ON | CUP_PUMP_IS_FAILING,

    /* Something of these may end or must be told in this pass. */
    CUP_PUMP_IS_TIMED = CUP_PUMP_IS_RESTING | CUP_PUMP_IS_BOOTING |
                        CUP_PUMP_IS_TRIPPED | CUP_PUMP_IS_STEERED |
                        CUP_PUMP_IS_CLEARED | CUP_PUMP_IS_MOVING
};

static inline bool cup_pump_is(const struct cup_pump_state *state,
                               unsigned flags)
{
    return (state->flags & flags) != 0;
}

static CUP_TINY void cup_pump_set(struct cup_pump_state *state, unsigned flags,
                                  bool on)
{
    cup_set_bits(&state->flags, flags, on);
}

/* Off, resting since boot, every guard closed until its reading is clear. */
void cup_pump_boot(struct cup_pump_state *state, uint32_t now_ms);

/* Asks one guard, by the CUP_READING_... flags and what its marks are compared
 * with. `sure`: it may clear, since it is not one sample alone that says so.
 * Returns the reason why it says no, or CUP_REASON_NONE. */
uint8_t cup_guard_step(CUP_FLASH struct cup_guard *guard,
                       struct cup_pump_state *state, uint8_t flags,
                       cup_mark value, bool sure);

/* Whether a guard said no and was not clear since. */
static inline bool cup_guard_remembers(CUP_FLASH struct cup_guard *guard,
                                       const struct cup_pump_state *state)
{
    return state->guarded & (uint8_t)(1u << guard->kind);
}

/* What each of a guard's reasons says, in their order. */
enum {
    CUP_GUARD_PAST,
    CUP_GUARD_NOT_CLEAR,
    CUP_GUARD_LOST,
    CUP_GUARD_UNKNOWN,
    CUP_GUARD_SAYS
};

/* The reason of a guard that says so: those of the first ones stand in a row,
 * those of a later one wherever it came. */
#define CUP_GUARD_STANDS(X, name, past, ...)                                   \
    kind == CUP_GUARD_##name ? (uint8_t)(CUP_REASON_##name##_##past + which):
static inline uint8_t cup_guard_reason(uint8_t kind, uint8_t which)
{
    return CUP_LATER_GUARDS(CUP_GUARD_STANDS, )(uint8_t)(
        CUP_REASON_SOURCE_LOW + kind * CUP_GUARD_SAYS + which);
}

/* The kind of the guard whose reason this is; CUP_GUARD_COUNT or more when it
 * is none's. */
#define CUP_GUARD_HAS(X, name, past, ...)                                      \
    (uint8_t)(reason - CUP_REASON_##name##_##past) < CUP_GUARD_SAYS            \
        ? CUP_GUARD_##name                                                     \
        :
static inline uint8_t cup_guard_kind(uint8_t reason)
{
    uint8_t kind =
        (uint8_t)((uint8_t)(reason - CUP_REASON_SOURCE_LOW) / CUP_GUARD_SAYS);
    if (CUP_FIRST_GUARD_COUNT < CUP_GUARD_COUNT &&
        kind >= CUP_FIRST_GUARD_COUNT)
        kind = CUP_LATER_GUARDS(CUP_GUARD_HAS, ) CUP_GUARD_COUNT;
    return kind;
}

/* What the reason of a guard says. */
static inline uint8_t cup_guard_says(uint8_t reason)
{
    uint8_t first = CUP_REASON_SOURCE_LOW;
    if (CUP_FIRST_GUARD_COUNT < CUP_GUARD_COUNT)
        first = cup_guard_reason(cup_guard_kind(reason), 0);
    return (uint8_t)((uint8_t)(reason - first) % CUP_GUARD_SAYS);
}

/* The guard of a pump whose reason this is; null when none has it. */
CUP_FLASH struct cup_guard *cup_guard_of(CUP_FLASH struct cup_pump *pump,
                                         uint8_t reason);

/* Fills `cause` with the numbers behind a guard's `reason`, for a reading that
 * can be used: `level` is what its marks are compared with, and `value` what
 * that is as a value. Returns the reason. */
uint8_t cup_guard_cause(CUP_FLASH struct cup_guard *guard, uint8_t reason,
                        cup_mark level, cup_value value,
                        struct cup_cause *cause);

/* Ends rests, pauses and hand runs whose time is over. */
void cup_pump_age(CUP_FLASH struct cup_pump *pump, struct cup_pump_state *state,
                  uint32_t now_ms, uint32_t boot_wait_ms);

/* How many ms until a rest, pause or hand run ends or a run reaches its
 * longest; UINT32_MAX when nothing is timed. */
uint32_t cup_pump_left(CUP_FLASH struct cup_pump *pump,
                       const struct cup_pump_state *state, uint32_t now_ms,
                       uint32_t boot_wait_ms);

/* A running pump has reached its longest run. */
bool cup_pump_ran_longest(CUP_FLASH struct cup_pump *pump,
                          const struct cup_pump_state *state, uint32_t now_ms);

/* Nothing of its own keeps it from starting: no guard, trip or rest. */
bool cup_pump_ready(const struct cup_pump_state *state);

/* What it shows now. */
enum cup_pump_show cup_pump_shows(const struct cup_pump_state *state);

/* Why a pump that is wanted does not run: trip, rest or boot wait. Fills
 * `cause`, but for what it is about, and returns its reason. */
uint8_t cup_pump_cause(CUP_FLASH struct cup_pump *pump,
                       const struct cup_pump_state *state, uint32_t now_ms,
                       uint32_t boot_wait_ms, struct cup_cause *cause);

/* The output goes on or off; both are stamped with the time. */
void cup_pump_start(struct cup_pump_state *state, uint32_t now_ms);
void cup_pump_stop(struct cup_pump_state *state, uint32_t now_ms);

/* Counts a failed run. Returns CUP_KIND_TRIP, or CUP_KIND_LOCK when no try is
 * left. */
enum cup_kind cup_pump_trip(CUP_FLASH struct cup_pump *pump,
                            struct cup_pump_state *state);

/* A person, or a run that did its job, says that all is well. */
void cup_pump_clear(struct cup_pump_state *state);

/* Off, auto: at once. Hand: for hand_for_ms from now. Where
 * CUP_USES_STEERING. */
void cup_pump_switch(struct cup_pump_state *state, enum cup_mode mode,
                     uint32_t now_ms, uint32_t hand_for_ms);

/* The switch goes back to where it was before the hand run. */
void cup_pump_end_hand(struct cup_pump_state *state, uint32_t now_ms);

CUP_C_ENDS

#endif
