/* What comes and goes, told at the soonest once every repeat. */
#include "cuplatch/once.h"

bool cup_once_comes(struct cup_once_state *state, uint32_t now_ms,
                    uint32_t repeat_ms)
{
    bool was_there = state->flags & CUP_ONCE_THERE;
    state->flags |= CUP_ONCE_THERE;
    if (state->flags & CUP_ONCE_TOLD)
        return false;
    if (cup_once_is_hushed(state, now_ms, repeat_ms)) {
        if (!was_there && state->unsaid < UINT16_MAX)
            state->unsaid++;
        return false;
    }
    state->flags |= CUP_ONCE_SPOKE | CUP_ONCE_TOLD;
    state->told_ms = now_ms;
    return true;
}

bool cup_once_is_hushed(const struct cup_once_state *state, uint32_t now_ms,
                        uint32_t repeat_ms)
{
    return (state->flags & (CUP_ONCE_SPOKE | CUP_ONCE_TOLD)) ==
               CUP_ONCE_SPOKE &&
           cup_elapsed(now_ms, state->told_ms) < repeat_ms;
}

bool cup_once_goes(struct cup_once_state *state)
{
    bool told = state->flags & CUP_ONCE_TOLD;
    state->flags &= CUP_ONCE_SPOKE;
    return told;
}

uint32_t cup_once_left(const struct cup_once_state *state, uint32_t now_ms,
                       uint32_t repeat_ms)
{
    return (state->flags & (CUP_ONCE_THERE | CUP_ONCE_TOLD)) == CUP_ONCE_THERE
               ? cup_left(now_ms, state->told_ms, repeat_ms)
               : UINT32_MAX;
}
