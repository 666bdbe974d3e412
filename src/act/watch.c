/* What the site notices about itself. */
#include "cuplatch/watch.h"

#define MINUTE_MS 60000

/* What the window came to, in the direction that is watched. */
static int32_t moved(CUP_FLASH struct cup_watch *watch,
                     const struct cup_watch_state *state, int32_t value)
{
    if (CUP_IF(FLOWS, watch->way == CUP_WATCH_ABOVE))
        return value;
    return watch->way == CUP_WATCH_RISES ? cup_minus(value, state->base)
                                         : cup_minus(state->base, value);
}

static void begin_window(struct cup_watch_state *state, uint32_t now_ms,
                         int32_t value, unsigned flags)
{
    state->base = value;
    state->from_ms = now_ms;
    state->flags = (state->flags & CUP_WATCH_TOLD) | CUP_WATCH_BEGUN | flags;
}

/* Says it once, and once that it is over. */
static enum cup_watch_says say(struct cup_watch_state *state, bool bad)
{
    bool told = state->flags & CUP_WATCH_TOLD;
    if (bad == told)
        return CUP_WATCH_NOTHING;
    state->flags ^= CUP_WATCH_TOLD;
    return bad ? CUP_WATCH_ALERT : CUP_WATCH_OVER;
}

enum cup_watch_says cup_watch_step(CUP_FLASH struct cup_watch *watch,
                                   struct cup_watch_state *state,
                                   uint32_t now_ms, bool disturbed,
                                   int32_t value, int32_t *shown)
{
    if (disturbed) {
        state->flags &= CUP_WATCH_TOLD;
        return CUP_WATCH_NOTHING;
    }
    if (!(state->flags & CUP_WATCH_BEGUN)) {
        begin_window(state, now_ms, value, 0);
        return CUP_WATCH_NOTHING;
    }
    if (cup_left(now_ms, state->from_ms, watch->within_ms) > 0)
        return CUP_WATCH_NOTHING;
    bool calm = state->flags & CUP_WATCH_CALM;
    uint32_t bad = state->flags / CUP_WATCH_ONCE;
    *shown = moved(watch, state, value);
    bad = calm && *shown >= watch->change ? bad + 1 : 0;
    uint32_t need =
        watch->kind == CUP_WATCH_STILL ? CUP_WATCH_STILL_WINDOWS : 1;
    bad = cup_least(bad, need);
    begin_window(state, now_ms, value, CUP_WATCH_CALM | bad * CUP_WATCH_ONCE);
    if (!calm || (bad > 0 && bad < need))
        return CUP_WATCH_NOTHING;
    return say(state, bad > 0);
}

/* Whether a run has given more than was there, were a minute so long. */
static bool has_given(CUP_FLASH struct cup_watch *watch,
                      const struct cup_watch_state *state, uint32_t run_ms,
                      uint16_t minute_ms)
{
    uint32_t there_ml = state->base > 0 ? (uint32_t)state->base : 0;
    return (uint64_t)run_ms * (uint32_t)watch->change >
           (uint64_t)there_ml * minute_ms;
}

enum cup_watch_says cup_watch_volume(CUP_FLASH struct cup_watch *watch,
                                     struct cup_watch_state *state, bool on,
                                     uint32_t run_ms, int32_t held_ml,
                                     int32_t *shown)
{
    if (!on) {
        state->flags &= CUP_WATCH_TOLD;
        return CUP_WATCH_NOTHING;
    }
    if (!(state->flags & CUP_WATCH_BEGUN)) {
        begin_window(state, 0, held_ml, 0);
        return say(state, false);
    }
    if (held_ml > state->base) /* it is filled meanwhile */
        state->base = held_ml;
    *shown = state->base;
    return has_given(watch, state, run_ms, MINUTE_MS) ? say(state, true)
                                                      : CUP_WATCH_NOTHING;
}

uint32_t cup_watch_volume_left(CUP_FLASH struct cup_watch *watch,
                               const struct cup_watch_state *state,
                               uint32_t run_ms)
{
    if (state->flags & CUP_WATCH_TOLD)
        return UINT32_MAX;
    return has_given(watch, state, run_ms, MINUTE_MS / 2) ? 0 : run_ms;
}

uint32_t cup_watch_left(CUP_FLASH struct cup_watch *watch,
                        const struct cup_watch_state *state, uint32_t now_ms)
{
    return state->flags & CUP_WATCH_BEGUN
               ? cup_left(now_ms, state->from_ms, watch->within_ms)
               : UINT32_MAX;
}
