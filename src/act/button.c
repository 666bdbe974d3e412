/* Presses of a button, long and short, without their bounces. */
#include "cuplatch/button.h"

enum {
    SEEN_CLOSED = 1, /* at the last look */
    WAS_OPEN = 2,    /* it was open, so that it can be pressed */
    IS_DOWN = 4,     /* it is pressed, and settled */
    IS_TOLD = 8      /* that was told */
};

/* It is open, and settled: what was short is told now. */
static enum cup_press released(struct cup_button_state *state)
{
    const uint16_t was = state->flags;
    state->flags = WAS_OPEN;
    return (was & (IS_DOWN | IS_TOLD)) == IS_DOWN ? CUP_PRESS_SHORT
                                                  : CUP_PRESS_NONE;
}

/* It is closed, and settled, for so long. */
static enum cup_press pressed(struct cup_button_state *state, uint32_t lasts_ms,
                              bool holds)
{
    if ((state->flags & (WAS_OPEN | IS_TOLD)) != WAS_OPEN)
        return CUP_PRESS_NONE;
    state->flags |= IS_DOWN;
    if (holds && lasts_ms < CUP_BUTTON_LONG_MS)
        return CUP_PRESS_NONE;
    state->flags |= IS_TOLD;
    return holds ? CUP_PRESS_LONG : CUP_PRESS_SHORT;
}

enum cup_press cup_button_step(struct cup_button_state *state, uint32_t now_ms,
                               bool closed, bool holds)
{
    if (closed != ((state->flags & SEEN_CLOSED) != 0)) {
        state->flags ^= SEEN_CLOSED;
        state->since_ms = now_ms;
        return CUP_PRESS_NONE;
    }
    uint32_t lasts_ms = cup_elapsed(now_ms, state->since_ms);
    if (lasts_ms < CUP_BUTTON_SETTLES_MS)
        return CUP_PRESS_NONE;
    return closed ? pressed(state, lasts_ms, holds) : released(state);
}
