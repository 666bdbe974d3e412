/* Runs, rests, trips and the three positions of the switch. */
#include "cuplatch/pump.h"

void cup_pump_boot(struct cup_pump_state *state, uint32_t now_ms)
{
    state->since_ms = now_ms;
    state->duty = CUP_NONE;
    state->guarded = (1u << CUP_GUARD_COUNT) - 1;
    cup_pump_set(state, CUP_PUMP_IS_RESTING | CUP_PUMP_IS_BOOTING, true);
}

void cup_pump_start(struct cup_pump_state *state, uint32_t now_ms)
{
    state->since_ms = now_ms;
    CUP_WHERE(STEERING, {
        if (state->mode != CUP_MODE_HAND)
            state->hand_ms = now_ms;
    })
    cup_pump_set(state, CUP_PUMP_IS_ON, true);
}

void cup_pump_stop(struct cup_pump_state *state, uint32_t now_ms)
{
    state->since_ms = now_ms;
    cup_pump_set(state, CUP_PUMP_IS_ON, false);
    cup_pump_set(state, CUP_PUMP_IS_RESTING, true);
}

/* What travels finds its place before it is used. */
static uint32_t boot_ms(CUP_FLASH struct cup_pump *pump, uint32_t boot_wait_ms)
{
    if (CUP_IF(TRAVELS, pump->travel && pump->travel->all_ms > boot_wait_ms))
        return CUP_IF(TRAVELS, pump->travel->all_ms);
    (void)pump;
    return boot_wait_ms;
}

/* A flag whose time is over, counted from the last start or stop, stays
 * over. */
static inline void end_flag(struct cup_pump_state *state, uint8_t flag,
                            uint32_t now_ms, CUP_FLASH uint32_t *limit_ms)
{
    if (cup_is_over(now_ms, &state->since_ms, limit_ms))
        cup_pump_set(state, flag, false);
}

/* However long the pump is idle. */
static void end_rests(CUP_FLASH struct cup_pump *pump,
                      struct cup_pump_state *state, uint32_t now_ms,
                      uint32_t boot_wait_ms)
{
    end_flag(state, CUP_PUMP_IS_RESTING, now_ms, &pump->rest_ms);
    if (!cup_pump_is(state, CUP_PUMP_IS_LOCKED))
        end_flag(state, CUP_PUMP_IS_TRIPPED, now_ms, &pump->retry_ms);
    if (now_ms - state->since_ms >= boot_ms(pump, boot_wait_ms))
        cup_pump_set(state, CUP_PUMP_IS_BOOTING, false);
}

void cup_pump_end_hand(struct cup_pump_state *state, uint32_t now_ms)
{
    state->mode =
        cup_pump_is(state, CUP_PUMP_WAS_OFF) ? CUP_MODE_OFF : CUP_MODE_AUTO;
    CUP_WHERE(STEERING, state->hand_ms = now_ms;)
    (void)now_ms;
    cup_pump_set(state, CUP_PUMP_IS_STEERED, true);
}

/* What is left of a hand run; UINT32_MAX when there is none. */
static uint32_t hand_left(const struct cup_pump_state *state, uint32_t now_ms)
{
    if (CUP_IF(STEERING, state->mode == CUP_MODE_HAND))
        return CUP_IF(STEERING,
                      cup_left(now_ms, state->hand_ms, state->hand_for_ms));
    (void)state, (void)now_ms;
    return UINT32_MAX;
}

void cup_pump_age(CUP_FLASH struct cup_pump *pump, struct cup_pump_state *state,
                  uint32_t now_ms, uint32_t boot_wait_ms)
{
    if (CUP_IF(STEERING, hand_left(state, now_ms) == 0))
        cup_pump_end_hand(state, now_ms);
    if (cup_pump_is(state, CUP_PUMP_IS_RESTING | CUP_PUMP_IS_BOOTING |
                               CUP_PUMP_IS_TRIPPED) &&
        !cup_pump_is(state, CUP_PUMP_IS_ON))
        end_rests(pump, state, now_ms, boot_wait_ms);
}

static uint32_t idle_left(CUP_FLASH struct cup_pump *pump,
                          const struct cup_pump_state *state, uint32_t now_ms,
                          uint32_t boot_wait_ms)
{
    uint32_t left = UINT32_MAX;
    if (cup_pump_is(state, CUP_PUMP_IS_RESTING))
        left = cup_left(now_ms, state->since_ms, pump->rest_ms);
    if (cup_pump_is(state, CUP_PUMP_IS_BOOTING))
        left = cup_least(left, cup_left(now_ms, state->since_ms,
                                        boot_ms(pump, boot_wait_ms)));
    if (cup_pump_is(state, CUP_PUMP_IS_TRIPPED))
        left =
            cup_least(left, cup_left(now_ms, state->since_ms, pump->retry_ms));
    return left;
}

uint32_t cup_pump_left(CUP_FLASH struct cup_pump *pump,
                       const struct cup_pump_state *state, uint32_t now_ms,
                       uint32_t boot_wait_ms)
{
    uint32_t left = hand_left(state, now_ms);
    if (cup_pump_is(state, CUP_PUMP_IS_ON)) {
        if (pump->longest_ms == 0)
            return left;
        return cup_least(left,
                         cup_left(now_ms, state->since_ms, pump->longest_ms));
    }
    if (cup_pump_is(state, CUP_PUMP_IS_LOCKED) ||
        !cup_pump_is(state, CUP_PUMP_IS_RESTING | CUP_PUMP_IS_BOOTING |
                                CUP_PUMP_IS_TRIPPED))
        return left;
    return cup_least(left, idle_left(pump, state, now_ms, boot_wait_ms));
}

bool cup_pump_ran_longest(CUP_FLASH struct cup_pump *pump,
                          const struct cup_pump_state *state, uint32_t now_ms)
{
    return pump->longest_ms > 0 &&
           cup_is_over(now_ms, &state->since_ms, &pump->longest_ms);
}

bool cup_pump_ready(const struct cup_pump_state *state)
{
    return state->no == CUP_REASON_NONE &&
           !cup_pump_is(state, CUP_PUMP_IS_TRIPPED | CUP_PUMP_IS_RESTING |
                                   CUP_PUMP_IS_BOOTING);
}

enum cup_pump_show cup_pump_shows(const struct cup_pump_state *state)
{
    if (cup_pump_is(state, CUP_PUMP_IS_ON))
        return CUP_PUMP_RUNNING;
    if (cup_pump_is(state, CUP_PUMP_IS_TRIPPED))
        return CUP_PUMP_TRIPPED;
    if (state->no != CUP_REASON_NONE)
        return CUP_PUMP_BLOCKED;
    if (cup_pump_is(state, CUP_PUMP_IS_RESTING | CUP_PUMP_IS_BOOTING))
        return CUP_PUMP_RESTING;
    return cup_pump_is(state, CUP_PUMP_IS_WANTED) ? CUP_PUMP_WAITING
                                                  : CUP_PUMP_OFF;
}

static uint8_t wait_cause(const struct cup_pump_state *state, uint32_t now_ms,
                          uint8_t reason, uint32_t limit_ms,
                          struct cup_cause *cause)
{
    return cup_cause_set(cause, reason,
                         (int32_t)cup_left(now_ms, state->since_ms, limit_ms),
                         (int32_t)limit_ms);
}

uint8_t cup_pump_cause(CUP_FLASH struct cup_pump *pump,
                       const struct cup_pump_state *state, uint32_t now_ms,
                       uint32_t boot_wait_ms, struct cup_cause *cause)
{
    if (cup_pump_is(state, CUP_PUMP_IS_LOCKED))
        return cup_cause_set(cause, CUP_REASON_LOCKED, state->trips, 0);
    if (cup_pump_is(state, CUP_PUMP_IS_TRIPPED))
        return wait_cause(state, now_ms, CUP_REASON_RETRY, pump->retry_ms,
                          cause);
    uint32_t boot = boot_ms(pump, boot_wait_ms);
    if (cup_pump_is(state, CUP_PUMP_IS_BOOTING) &&
        (boot >= pump->rest_ms || !cup_pump_is(state, CUP_PUMP_IS_RESTING)))
        return wait_cause(state, now_ms, CUP_REASON_BOOT_WAIT, boot, cause);
    return wait_cause(state, now_ms, CUP_REASON_REST, pump->rest_ms, cause);
}

enum cup_kind cup_pump_trip(CUP_FLASH struct cup_pump *pump,
                            struct cup_pump_state *state)
{
    cup_pump_set(state, CUP_PUMP_IS_TRIPPED, true);
    state->trips++;
    if (state->trips <= pump->retries)
        return CUP_KIND_TRIP;
    cup_pump_set(state, CUP_PUMP_IS_LOCKED, true);
    return CUP_KIND_LOCK;
}

void cup_pump_clear(struct cup_pump_state *state)
{
    cup_pump_set(state, CUP_PUMP_IS_TRIPPED | CUP_PUMP_IS_LOCKED, false);
    state->trips = 0;
}

#if CUP_USES_STEERING
void cup_pump_switch(struct cup_pump_state *state, enum cup_mode mode,
                     uint32_t now_ms, uint32_t hand_for_ms)
{
    if (mode == CUP_MODE_HAND && state->mode != CUP_MODE_HAND)
        cup_pump_set(state, CUP_PUMP_WAS_OFF, state->mode == CUP_MODE_OFF);
    if (mode == CUP_MODE_HAND || state->mode == CUP_MODE_HAND)
        state->hand_ms = now_ms;
    state->mode = (uint8_t)mode;
    state->hand_for_ms = mode == CUP_MODE_HAND ? hand_for_ms : 0;
    cup_pump_set(state, CUP_PUMP_IS_STEERED, true);
    if (mode != CUP_MODE_HAND)
        cup_pump_set(state,
                     mode == CUP_MODE_OFF ? CUP_PUMP_SAID_OFF
                                          : CUP_PUMP_IS_AFRESH,
                     true);
}
#endif
