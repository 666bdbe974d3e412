/* Runs that come by themselves. */
#include "cuplatch/turn.h"

#define MINUTES_A_DAY UINT32_C(1440)

static bool turn_is(const struct cup_turn_state *state, unsigned flags)
{
    return (state->flags & flags) != 0;
}

static void set(struct cup_turn_state *state, unsigned flags, bool on)
{
    cup_set_bits(&state->flags, flags, on);
}

void cup_turn_boot(CUP_FLASH struct cup_turn *turn,
                   struct cup_turn_state *state, uint32_t now_ms)
{
    state->started_ms = now_ms;
    set(state, CUP_TURN_EVER, !turn->dawn);
}

bool cup_turn_is_over(const struct cup_turn_state *state, uint32_t now_ms,
                      CUP_NUMBERS uint32_t *limit_ms)
{
    return *limit_ms > 0 && (turn_is(state, CUP_TURN_LONG_AGO) ||
                             cup_is_past(now_ms, &state->started_ms, limit_ms));
}

static uint32_t left_to_give(const struct cup_turn_state *state,
                             uint32_t now_ms, uint32_t limit_ms)
{
    return turn_is(state, CUP_TURN_LONG_AGO)
               ? 0
               : cup_left(now_ms, state->started_ms, limit_ms);
}

uint32_t cup_turn_age(const struct cup_turn_state *state, uint32_t now_ms)
{
    if (turn_is(state, CUP_TURN_LONG_AGO))
        return CUP_TIME_MAX_MS;
    return cup_least(cup_elapsed(now_ms, state->started_ms), CUP_TIME_MAX_MS);
}

/* ms until its interval is over: from the start of the last one, or from when
 * the one was due that did not come. (Where no day comes for 49 days that time
 * comes round again: it waits for one interval more.) */
static uint32_t left_of_interval(CUP_NUMBERS struct cup_turn *turn,
                                 const struct cup_turn_state *state,
                                 uint32_t now_ms)
{
    if (CUP_IF(OWED, turn_is(state, CUP_TURN_PASSED)))
        return cup_left(now_ms, state->from_ms, turn->every_ms);
    return turn_is(state, CUP_TURN_EVER)
               ? left_to_give(state, now_ms, turn->every_ms)
               : 0;
}

uint32_t cup_turn_owed(const struct cup_turn_state *state, uint32_t now_ms)
{
    uint32_t gone = cup_elapsed(now_ms, state->from_ms);
    if (!turn_is(state, CUP_TURN_RUNS) || gone >= CUP_TIME_BACK)
        return state->left_ms;
    return state->left_ms - cup_least(gone, state->left_ms);
}

uint32_t cup_turn_least(CUP_NUMBERS struct cup_turn *turn)
{
    uint32_t least = turn->least_ms;
    if (CUP_USES_SETTINGS && least == 0 && turn->dawn)
        least = turn->every_ms / 2; /* as that is now */
    return least;
}

uint32_t cup_turn_left(CUP_NUMBERS struct cup_turn *turn,
                       const struct cup_turn_state *state, uint32_t now_ms,
                       bool is_day)
{
    uint32_t left = UINT32_MAX;
    if (turn->every_ms > 0 && is_day)
        left = left_of_interval(turn, state, now_ms);
    if (turn->apart_ms > 0)
        left = cup_least(left, left_to_give(state, now_ms, turn->apart_ms));
    if (turn_is(state, CUP_TURN_DAWN))
        left = 0;
    return left == UINT32_MAX || !turn_is(state, CUP_TURN_EVER)
               ? left
               : cup_most(left,
                          left_to_give(state, now_ms, cup_turn_least(turn)));
}

#if CUP_USES_CLOCK
/* Minutes of the clock since it was last looked at. None when it was set back,
 * so that no time comes twice, unless by more than a day; nor when it was set
 * ahead by more than half a day: only the time without power swallows more. */
static uint32_t minutes_gone(struct cup_turn_state *state, uint32_t clock_min)
{
    const uint32_t before = state->clock_min;
    if (before > clock_min && before - clock_min <= MINUTES_A_DAY)
        return 0;
    const bool was_off = turn_is(state, CUP_TURN_WAS_OFF);
    set(state, CUP_TURN_WAS_OFF, false);
    state->clock_min = clock_min;
    if (before == 0 || before > clock_min ||
        (!was_off && clock_min - before > MINUTES_A_DAY / 2))
        return 0;
    return clock_min - before;
}

/* How many of its times of the clock have come. */
static uint32_t strikes(CUP_NUMBERS struct cup_turn *turn,
                        struct cup_turn_state *state, uint32_t clock_min)
{
    if (turn->at_count == 0 || clock_min == 0)
        return 0;
    const uint32_t gone = minutes_gone(state, clock_min);
    uint32_t count = 0;
    for (uint8_t i = 0; gone > 0 && i < turn->at_count; i++) {
        /* since it would have come last */
        const uint32_t since =
            (clock_min + MINUTES_A_DAY - turn->at[i]) % MINUTES_A_DAY;
        if (since < gone)
            count += 1 + (gone - since - 1) / MINUTES_A_DAY;
    }
    return count;
}
#endif

#if CUP_USES_OWED
/* One that is owed and has not begun. */
static bool has_not_begun(const struct cup_turn_state *state)
{
    return (state->flags & (CUP_TURN_OWED | CUP_TURN_BEGUN | CUP_TURN_RUNS)) ==
           CUP_TURN_OWED;
}

static void miss(struct cup_turn_state *state, uint32_t count)
{
    state->missed = (uint8_t)cup_least(state->missed + count, UINT8_MAX);
}
#endif

#if CUP_USES_CLOCK
/* Times of the clock that came: the last of them is due, what they find waiting
 * is missed. A person who keeps it off has missed nothing. */
static bool has_struck(CUP_NUMBERS struct cup_turn *turn,
                       struct cup_turn_state *state,
                       const struct cup_turn_seen *seen)
{
    uint32_t count = strikes(turn, state, seen->clock_min);
    if (count == 0)
        return false;
    CUP_WHERE(OWED, {
        const bool waited = has_not_begun(state);
        if (!seen->is_off)
            miss(state, count - 1 + waited);
        if (waited) /* the new one takes its place */
            set(state, CUP_TURN_OWED, false);
    })
    return true;
}
#endif

/* A time of it has come: of the clock, dawn, or its interval. */
static bool has_come(CUP_NUMBERS struct cup_turn *turn,
                     struct cup_turn_state *state, uint32_t now_ms,
                     const struct cup_turn_seen *seen)
{
    bool struck = CUP_IF(CLOCK, has_struck(turn, state, seen));
    if (turn->dawn && seen->is_dawn)
        set(state, CUP_TURN_DAWN, true);
    else if (!seen->is_day)
        set(state, CUP_TURN_DAWN, false);
    return struck || turn_is(state, CUP_TURN_DAWN) ||
           (seen->is_day && turn->every_ms > 0 &&
            left_of_interval(turn, state, now_ms) == 0);
}

/* The turn is counted from when its pump first ran, or, where nothing was to
 * be given, from when it was due. */
static void begin_turn(struct cup_turn_state *state, uint32_t since_ms)
{
    state->started_ms = since_ms;
    set(state, CUP_TURN_BEGUN | CUP_TURN_EVER, true);
    set(state,
        CUP_TURN_LONG_AGO | CUP_IF(OWED, CUP_TURN_PASSED | CUP_TURN_TOLD),
        false);
}

CUP_APART void cup_turn_begin(struct cup_turn_state *state, uint32_t now_ms)
{
    if (!turn_is(state, CUP_TURN_BEGUN)) /* else it goes on */
        begin_turn(state, now_ms);
    set(state, CUP_TURN_RUNS, true);
    state->from_ms = now_ms;
}

/* Whether the last one started long enough ago for another. */
static bool is_apart(CUP_NUMBERS struct cup_turn *turn,
                     const struct cup_turn_state *state, uint32_t now_ms)
{
    return !turn_is(state, CUP_TURN_EVER) ||
           left_to_give(state, now_ms, cup_turn_least(turn)) == 0;
}

#if CUP_USES_STEERING
/* A run that a hand began, or took over, is the turn's from when that ended. */
static void take_over(struct cup_turn_state *state,
                      const struct cup_turn_seen *seen, bool ran)
{
    if (seen->running && !ran)
        state->from_ms = seen->run_since_ms;
    if (seen->running && turn_is(state, CUP_TURN_OWED) &&
        !turn_is(state, CUP_TURN_BEGUN))
        begin_turn(state, seen->run_since_ms);
}
#else
static void take_over(struct cup_turn_state *state,
                      const struct cup_turn_seen *seen, bool ran)
{
    (void)state, (void)seen, (void)ran;
}
#endif

/* Counts what was given since the last look: up to now, or up to when the pump
 * stopped. */
static void count(struct cup_turn_state *state,
                  const struct cup_turn_seen *seen)
{
    bool ran = turn_is(state, CUP_TURN_RUNS);
    set(state, CUP_TURN_RUNS, seen->running);
    take_over(state, seen, ran);
    uint32_t gone = cup_elapsed(seen->run_until_ms, state->from_ms);
    if ((seen->running || ran) && gone < CUP_TIME_BACK) {
        state->left_ms -= cup_least(gone, state->left_ms);
        state->from_ms = seen->run_until_ms;
    }
}

/* Done, or there was no need. */
CUP_APART static void end(struct cup_turn_state *state, uint32_t now_ms)
{
    const bool begun = turn_is(state, CUP_TURN_BEGUN);
    if (!begun)
        begin_turn(state, now_ms);
    CUP_WHERE(OWED, {
        state->reached =
            begun ? 0 : (uint8_t)cup_least(state->reached + 1u, UINT8_MAX);
    })
    set(state, CUP_TURN_OWED | CUP_TURN_BEGUN | CUP_TURN_DAWN, false);
}

/* A whole one is owed; its length may change until it begins. */
static void owe(CUP_NUMBERS struct cup_turn *turn, struct cup_turn_state *state)
{
    if (!turn_is(state, CUP_TURN_BEGUN))
        state->left_ms = turn->run_ms;
    if (CUP_USES_SETTINGS)
        state->left_ms = cup_least(state->left_ms, turn->run_ms);
}

#if CUP_USES_OWED
/* How long what waits may be owed; 0: until the next. */
static uint32_t owed_for(CUP_NUMBERS struct cup_turn *turn)
{
    if (turn->owed_ms > 0)
        return turn->owed_ms;
    return CUP_IF(CLOCK, turn->at_count > 0) ? 0 : turn->every_ms / 2;
}

/* Its time passed without it: the next counts from when it was due. */
static void pass_by(struct cup_turn_state *state)
{
    state->flags =
        (uint16_t)((state->flags & ~(unsigned)(CUP_TURN_OWED | CUP_TURN_BEGUN |
                                               CUP_TURN_DAWN)) |
                   CUP_TURN_PASSED);
}

/* What has waited for too long is missed, and comes no more. ms until that;
 * UINT32_MAX: never. */
static uint32_t age_owed(CUP_NUMBERS struct cup_turn *turn,
                         struct cup_turn_state *state, uint32_t now_ms)
{
    const uint32_t limit_ms = owed_for(turn);
    if (!has_not_begun(state) || limit_ms == 0)
        return UINT32_MAX;
    uint32_t left = cup_left(now_ms, state->from_ms, limit_ms);
    if (left == 0) {
        miss(state, 1);
        pass_by(state);
    }
    return left;
}

/* While a person keeps it off nothing is owed: not what comes meanwhile, nor
 * what waited, nor the rest of what was cut short. */
static void keep_off(struct cup_turn_state *state, uint32_t now_ms, bool came)
{
    if (turn_is(state, CUP_TURN_BEGUN))
        set(state, CUP_TURN_OWED | CUP_TURN_BEGUN, false);
    else if (came || turn_is(state, CUP_TURN_OWED)) {
        if (!turn_is(state, CUP_TURN_OWED))
            state->from_ms = now_ms;
        pass_by(state);
    }
}
#endif

/* How long a turn may go on unseen; a new one that fell due in a run begins in
 * the next pass. */
static uint32_t turn_quiet(CUP_NUMBERS struct cup_turn *turn,
                           const struct cup_turn_state *state, uint32_t now_ms,
                           const struct cup_turn_seen *seen)
{
    if (turn_is(state, CUP_TURN_OWED) && !turn_is(state, CUP_TURN_BEGUN))
        return seen->running ? 0 : UINT32_MAX;
    uint32_t next = cup_least(cup_turn_left(turn, state, now_ms, seen->is_day),
                              CUP_TIME_MAX_MS - cup_turn_age(state, now_ms));
    return turn_is(state, CUP_TURN_OWED) && seen->running
               ? cup_least(next, state->left_ms)
               : next;
}

#if CUP_USES_OWED
/* The same for one that is kept off: until its next time, by day. */
static uint32_t kept_quiet(CUP_NUMBERS struct cup_turn *turn,
                           const struct cup_turn_state *state, uint32_t now_ms,
                           const struct cup_turn_seen *seen)
{
    return turn->every_ms > 0 && seen->is_day
               ? left_of_interval(turn, state, now_ms)
               : CUP_TIME_MAX_MS - cup_turn_age(state, now_ms);
}
#endif

/* It is due; how long it waits counts from here. What is left of the one before
 * is given instead: as a whole one, unless it is being given. */
static void fall_due(struct cup_turn_state *state, uint32_t now_ms)
{
    unsigned over = CUP_TURN_DAWN | CUP_IF(OWED, CUP_TURN_PASSED);
    if (turn_is(state, CUP_TURN_RUNS)) {
        if (turn_is(state, CUP_TURN_BEGUN))
            begin_turn(state, now_ms);
    } else {
        CUP_WHERE(OWED, {
            if (!has_not_begun(state))
                state->from_ms = now_ms;
        })
        over |= CUP_TURN_BEGUN;
    }
    state->flags = (uint16_t)((state->flags & ~over) | CUP_TURN_OWED);
}

/* What is owed, until it was given or is not needed. */
static void step_owed(CUP_NUMBERS struct cup_turn *turn,
                      struct cup_turn_state *state, uint32_t now_ms,
                      const struct cup_turn_seen *seen)
{
    if (!turn_is(state, CUP_TURN_OWED))
        return;
    owe(turn, state);
    if (state->left_ms == 0 || seen->is_reached)
        end(state, now_ms);
}

uint32_t cup_turn_step(CUP_NUMBERS struct cup_turn *turn,
                       struct cup_turn_state *state, uint32_t now_ms,
                       const struct cup_turn_seen *seen)
{
    CUP_BY_POINTER(state);
    count(state, seen);
    if (now_ms - state->started_ms >= CUP_TIME_MAX_MS)
        set(state, CUP_TURN_LONG_AGO, true);
    const bool came = has_come(turn, state, now_ms, seen);
    CUP_WHERE(OWED, {
        if (seen->is_off) {
            keep_off(state, now_ms, came);
            return CUP_USES_QUIET ? kept_quiet(turn, state, now_ms, seen) : 0;
        }
    })
    if ((came || cup_turn_is_over(state, now_ms, &turn->apart_ms)) &&
        is_apart(turn, state, now_ms))
        fall_due(state, now_ms);
    step_owed(turn, state, now_ms, seen);
    uint32_t late =
        CUP_IF_ELSE(OWED, age_owed(turn, state, now_ms), UINT32_MAX);
    (void)late;
    return CUP_USES_QUIET
               ? cup_least(late, turn_quiet(turn, state, now_ms, seen))
               : 0;
}

bool cup_turn_skip(struct cup_turn_state *state, uint32_t now_ms)
{
    if (!turn_is(state, CUP_TURN_OWED) ||
        turn_is(state, CUP_TURN_BEGUN | CUP_TURN_RUNS))
        return false;
    state->flags = (uint16_t)((state->flags &
                               ~(unsigned)(CUP_TURN_OWED | CUP_TURN_LONG_AGO)) |
                              CUP_TURN_EVER);
    state->started_ms = now_ms;
    state->left_ms = 0;
    return true;
}
