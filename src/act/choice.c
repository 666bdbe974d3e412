/* What a person chose stands until they say otherwise, or for so long. */
#include "cuplatch/choice.h"

void cup_choice_take(struct cup_choice_state *state, uint32_t now_ms,
                     uint32_t for_ms)
{
    if (!cup_choice_is(state, CUP_CHOICE_STANDS)) {
        *state = (struct cup_choice_state){
            .since_ms = now_ms,
            .flags = (uint16_t)((state->flags &
                                 (CUP_CHOICE_SKIP | CUP_CHOICE_SKIPS)) |
                                CUP_CHOICE_STANDS | CUP_CHOICE_NEW)};
        state->left_ms = for_ms;
        cup_set_bits(&state->flags, CUP_CHOICE_ENDS, for_ms > 0);
        return;
    }
    const uint32_t gone = cup_elapsed(now_ms, state->since_ms);
    if (!cup_choice_is(state, CUP_CHOICE_ENDS) ||
        (for_ms > 0 && for_ms <= cup_choice_left(state, now_ms)))
        return;
    state->left_ms = for_ms > 0 ? gone + for_ms : 0;
    cup_set_bits(&state->flags, CUP_CHOICE_ENDS, for_ms > 0);
    cup_set_bits(&state->flags, CUP_CHOICE_NEW, true);
}

void cup_choice_end(struct cup_choice_state *state)
{
    if (!cup_choice_is(state, CUP_CHOICE_STANDS))
        return;
    cup_set_bits(&state->flags,
                 CUP_CHOICE_STANDS | CUP_CHOICE_ENDS | CUP_CHOICE_ASKED, false);
    cup_set_bits(&state->flags, CUP_CHOICE_NEW, true);
}

enum cup_choice_says cup_choice_step(struct cup_choice_state *state,
                                     uint32_t now_ms)
{
    if (cup_choice_wait(state, now_ms) > 0)
        return CUP_CHOICE_NOTHING;
    if (cup_choice_is(state, CUP_CHOICE_ENDS) &&
        cup_left(now_ms, state->since_ms, state->left_ms) == 0) {
        cup_choice_end(state);
        return CUP_CHOICE_OVER;
    }
    state->since_ms += CUP_CHOICE_DAY_MS;
    state->left_ms -= cup_least(state->left_ms, CUP_CHOICE_DAY_MS);
    if (state->days < UINT16_MAX)
        state->days++;
    return CUP_CHOICE_DAY;
}

uint32_t cup_choice_wait(const struct cup_choice_state *state, uint32_t now_ms)
{
    if (!cup_choice_is(state, CUP_CHOICE_STANDS))
        return UINT32_MAX;
    uint32_t left = cup_left(now_ms, state->since_ms, CUP_CHOICE_DAY_MS);
    return cup_choice_is(state, CUP_CHOICE_ENDS)
               ? cup_least(left, cup_choice_left(state, now_ms))
               : left;
}

uint32_t cup_choice_left(const struct cup_choice_state *state, uint32_t now_ms)
{
    return cup_choice_is(state, CUP_CHOICE_ENDS)
               ? cup_left(now_ms, state->since_ms, state->left_ms)
               : 0;
}

void cup_choice_age(struct cup_choice_state *state, uint32_t off_ms)
{
    if (!cup_choice_is(state, CUP_CHOICE_STANDS))
        return;
    const uint32_t days = off_ms / CUP_CHOICE_DAY_MS;
    state->days = (uint16_t)cup_least(state->days + days, UINT16_MAX);
    state->left_ms -= cup_least(state->left_ms, off_ms);
}
