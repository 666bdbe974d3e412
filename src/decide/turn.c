/* Runs that come by themselves. */
#include "cuplatch/turn.h"

#define MINUTES_A_DAY 1440u
/* A clock that was set back by less than this goes on where it was. */
#define SET_BACK_MOST 60

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
    CUP_WHERE(CLOCK, state->minute = CUP_NO_MINUTE;)
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
        left = turn_is(state, CUP_TURN_EVER)
                   ? left_to_give(state, now_ms, turn->every_ms)
                   : 0;
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
/* Minutes of the clock since it was last looked at; 0 when it was set back a
 * little, or was not known. */
static unsigned minutes_gone(struct cup_turn_state *state, uint16_t minute)
{
    unsigned gone = 0;
    if (state->minute != CUP_NO_MINUTE && minute != CUP_NO_MINUTE)
        gone = (minute + MINUTES_A_DAY - state->minute) % MINUTES_A_DAY;
    if (gone >= MINUTES_A_DAY - SET_BACK_MOST)
        return 0;
    state->minute = minute;
    return gone > MINUTES_A_DAY / 2 ? 0 : gone;
}

/* Whether one of its times of the clock has come. */
static bool has_struck(CUP_NUMBERS struct cup_turn *turn,
                       struct cup_turn_state *state, uint16_t minute)
{
    uint16_t before = state->minute;
    unsigned gone = turn->at_count > 0 ? minutes_gone(state, minute) : 0;
    for (uint8_t i = 0; gone > 0 && i < turn->at_count; i++)
        if ((turn->at[i] + MINUTES_A_DAY - 1u - before) % MINUTES_A_DAY < gone)
            return true;
    return false;
}

#endif

static bool is_due(CUP_NUMBERS struct cup_turn *turn,
                   struct cup_turn_state *state, uint32_t now_ms,
                   const struct cup_turn_seen *seen)
{
    bool struck = CUP_IF(CLOCK, has_struck(turn, state, seen->minute));
    if (turn->dawn && seen->is_dawn)
        set(state, CUP_TURN_DAWN, true);
    else if (!seen->is_day)
        set(state, CUP_TURN_DAWN, false);
    return struck || turn_is(state, CUP_TURN_DAWN) ||
           (seen->is_day &&
            (!turn_is(state, CUP_TURN_EVER)
                 ? turn->every_ms > 0
                 : cup_turn_is_over(state, now_ms, &turn->every_ms))) ||
           cup_turn_is_over(state, now_ms, &turn->apart_ms);
}

/* The turn is counted from when its pump first ran, or, where nothing was to
 * be given, from when it was due. */
static void begin_turn(struct cup_turn_state *state, uint32_t since_ms)
{
    state->started_ms = since_ms;
    set(state, CUP_TURN_BEGUN | CUP_TURN_EVER, true);
    set(state, CUP_TURN_LONG_AGO, false);
}

CUP_APART void cup_turn_begin(struct cup_turn_state *state, uint32_t now_ms)
{
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
    if (!turn_is(state, CUP_TURN_BEGUN))
        begin_turn(state, now_ms);
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

/* How long a turn may go on unseen; a new one that fell due in a run begins in
 * the next pass. */
static uint32_t turn_quiet(CUP_NUMBERS struct cup_turn *turn,
                           const struct cup_turn_state *state, uint32_t now_ms,
                           const struct cup_turn_seen *seen)
{
    if (!turn_is(state, CUP_TURN_OWED))
        return cup_least(cup_turn_left(turn, state, now_ms, seen->is_day),
                         CUP_TIME_MAX_MS - cup_turn_age(state, now_ms));
    if (!seen->running)
        return UINT32_MAX;
    return turn_is(state, CUP_TURN_BEGUN) ? state->left_ms : 0;
}

uint32_t cup_turn_step(CUP_NUMBERS struct cup_turn *turn,
                       struct cup_turn_state *state, uint32_t now_ms,
                       const struct cup_turn_seen *seen)
{
    CUP_BY_POINTER(state);
    count(state, seen);
    if (now_ms - state->started_ms >= CUP_TIME_MAX_MS)
        set(state, CUP_TURN_LONG_AGO, true);
    if (is_due(turn, state, now_ms, seen) && is_apart(turn, state, now_ms))
        set(state, CUP_TURN_OWED, true);
    if (turn_is(state, CUP_TURN_OWED)) {
        owe(turn, state);
        if (state->left_ms == 0 || seen->is_reached)
            end(state, now_ms);
    }
    return CUP_USES_QUIET ? turn_quiet(turn, state, now_ms, seen) : 0;
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
