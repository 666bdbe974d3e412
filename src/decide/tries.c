/* A duty that its bed does not answer. */
#include "cuplatch/tries.h"

enum cup_kind cup_tries_fail(struct cup_tries_state *state, uint32_t now_ms,
                             uint8_t retries)
{
    state->since_ms = now_ms;
    state->flags = CUP_TRIES_TRIPPED;
    if (state->trips < UINT8_MAX)
        state->trips++;
    if (state->trips <= retries)
        return CUP_KIND_TRIP;
    state->flags = CUP_TRIES_TRIPPED | CUP_TRIES_LOCKED;
    return CUP_KIND_LOCK;
}

uint32_t cup_tries_left(struct cup_tries_state *state, uint32_t now_ms,
                        CUP_FLASH uint32_t *retry_ms)
{
    if (!cup_tries_rests(state))
        return 0;
    if (state->flags & CUP_TRIES_LOCKED)
        return UINT32_MAX;
    uint32_t left = cup_left(now_ms, state->since_ms, *retry_ms);
    if (left == 0)
        state->flags = 0;
    return left;
}

void cup_tries_clear(struct cup_tries_state *state)
{
    state->trips = 0;
    state->flags = 0;
}

uint8_t cup_tries_cause(const struct cup_tries_state *state, uint32_t now_ms,
                        uint32_t retry_ms, struct cup_cause *cause)
{
    if (state->flags & CUP_TRIES_LOCKED)
        return cup_cause_set(cause, CUP_REASON_DUTY_LOCKED, state->trips, 0);
    if (state->flags & CUP_TRIES_TRIPPED)
        return cup_cause_set(
            cause, CUP_REASON_DUTY_RETRY,
            (int32_t)cup_left(now_ms, state->since_ms, retry_ms),
            (int32_t)retry_ms);
    return CUP_REASON_NONE;
}
