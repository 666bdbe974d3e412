/* The parts of the heart with arbitrary plans within their limits and arbitrary
 * states and inputs, for Eva: nothing undefined, nothing out of bounds. */
#include "__fc_builtin.h"

#include "cuplatch/alert.h"
#include "cuplatch/button.h"
#include "cuplatch/curve.h"
#include "cuplatch/day.h"
#include "cuplatch/dose.h"
#include "cuplatch/duty.h"
#include "cuplatch/lamp.h"
#include "cuplatch/pump.h"
#include "cuplatch/speed.h"
#include "cuplatch/tank.h"
#include "cuplatch/turn.h"
#include "cuplatch/watch.h"

static int any_int(void)
{
    return Frama_C_interval(INT32_MIN, INT32_MAX);
}

static uint32_t any_ms(void)
{
    return Frama_C_unsigned_int_interval(0, UINT32_MAX);
}

static uint8_t any_byte(uint8_t most)
{
    return (uint8_t)Frama_C_unsigned_char_interval(0, most);
}

static uint16_t any_word(void)
{
    return (uint16_t)Frama_C_unsigned_short_interval(0, UINT16_MAX);
}

static struct cup_latch any_latch(void)
{
    return (struct cup_latch){any_int(), any_int(), any_ms()};
}

static struct cup_latch_state any_latch_state(void)
{
    return (struct cup_latch_state){
        any_ms(), any_byte(1), any_byte(2), {any_byte(255), any_byte(255)}};
}

static struct cup_pump_state any_pump_state(void)
{
    return (struct cup_pump_state){any_ms(),      any_ms(),      any_ms(),
                                   any_word(),    any_word(),    any_byte(2),
                                   any_byte(254), any_byte(255), any_byte(255)};
}

static void latches(void)
{
    struct cup_latch latch = any_latch();
    struct cup_latch_state state = any_latch_state();
    struct cup_cause cause;
    cup_latch_step(&latch, &state, any_ms(), any_int(), any_byte(1));
    cup_latch_left(&latch, &state, any_ms());
    cup_latch_cause(&latch, &state, any_int(), any_int(), &cause);
    cup_latch_past_stop(&latch, any_int());
    cup_duty_step(&latch, &state, any_ms(), any_byte(1), any_int(), any_int(),
                  any_byte(1));
    struct cup_alert alert = {any_latch(), any_ms(), NULL, 0};
    struct cup_alert_state told = {any_latch_state(), any_ms()};
    cup_alert_step(&alert, &told, any_ms(), any_int(), any_byte(1));
    cup_alert_left(&alert, &told, any_ms());
    struct cup_day day = {any_latch(), 0, any_word(), any_word()};
    cup_day_step(&day, &state, any_ms(), any_byte(1), any_int(), any_byte(1),
                 any_word());
    cup_latch_release(&state);
}

static void doses_and_turns(void)
{
    struct cup_dose dose = {any_ms(), any_ms(), any_byte(255)};
    struct cup_dose_state since = {.since_ms = any_ms(),
                                   .base = any_int(),
                                   .given = any_byte(255),
                                   .past = any_byte(255)};
    struct cup_latch marks = any_latch();
    struct cup_latch_state latch = any_latch_state();
    cup_dose_see(&since, &latch, any_byte(1));
    cup_dose_begin(&since, &latch, any_ms(), any_int());
    cup_dose_step(&dose, &since, &latch, any_ms(), any_byte(1));
    cup_dose_judge(&dose, &since, &marks, &latch, any_int());
    cup_dose_limit(&dose, &since, &latch);
    struct cup_cause cause;
    cup_dose_cause(&dose, &since, &latch, any_ms(), &cause);
    uint16_t at[2] = {any_word(), any_word()};
    struct cup_turn turn = {.run_ms = any_ms(),
                            .every_ms = any_ms(),
                            .apart_ms = any_ms(),
                            .least_ms = any_ms(),
                            .at = at,
                            .until_above = any_int(),
                            .until_side = any_int(),
                            .until = any_word(),
                            .day = any_word(),
                            .at_count = 2,
                            .dawn = any_byte(1)};
    struct cup_turn_state state = {any_ms(), any_ms(), any_ms(), any_word(),
                                   any_word()};
    struct cup_turn_seen seen = {any_ms(),    any_ms(),    any_word(),
                                 any_byte(1), any_byte(1), any_byte(1),
                                 any_byte(1)};
    cup_turn_begin(&state, any_ms());
    cup_turn_step(&turn, &state, any_ms(), &seen);
    cup_turn_left(&turn, &state, any_ms(), any_byte(1));
    cup_turn_age(&state, any_ms());
}

static void pumps(void)
{
    struct cup_guard guards[2] = {
        {any_int(), any_int(), 0, any_byte(CUP_GUARD_COUNT - 1)},
        {any_int(), any_int(), 1, any_byte(CUP_GUARD_COUNT - 1)}};
    struct cup_travel travel = {any_ms() | 1u, any_word()};
    struct cup_pump pump = {.rest_ms = any_ms(),
                            .longest_ms = any_ms(),
                            .retry_ms = any_ms(),
                            .hand_limit_ms = any_ms(),
                            .shortest_ms = any_ms(),
                            .guards = guards,
                            .guard_count = 2,
                            .travel = any_byte(1) ? &travel : NULL,
                            .retries = any_byte(255)};
    struct cup_pump_state state = any_pump_state();
    cup_guard_step(&guards[0], &state, any_byte(255), any_int(), any_byte(1));
    cup_guard_of(&pump, any_byte(255));
    struct cup_cause cause;
    cup_guard_cause(&guards[1], any_byte(255), any_int(), any_int(), &cause);
    cup_pump_age(&pump, &state, any_ms(), any_ms());
    cup_pump_left(&pump, &state, any_ms(), any_ms());
    cup_pump_ran_longest(&pump, &state, any_ms());
    cup_pump_cause(&pump, &state, any_ms(), any_ms(), &cause);
    cup_pump_shows(&state);
    cup_pump_trip(&pump, &state);
    cup_pump_start(&state, any_ms());
    cup_pump_stop(&state, any_ms());
    cup_pump_switch(&state, (enum cup_mode)any_byte(2), any_ms(), any_ms());
    cup_pump_end_hand(&state, any_ms());
    cup_pump_clear(&state);
}

/* Depths and volumes are what a tank can have: 0 to 65535 steps, and 2^30. */
static void proofs_and_watches(void)
{
    int depth = Frama_C_interval(0, 655350);
    struct cup_proof proof = {.change = Frama_C_interval(1, 1 << 30),
                              .within_ms = any_ms(),
                              .lag_ms = any_ms(),
                              .kind = any_byte(2)};
    struct cup_proof_state state = {Frama_C_interval(0, 655350),
                                    Frama_C_interval(-(1 << 30), 1 << 30),
                                    any_ms(),
                                    any_ms(),
                                    any_byte(7),
                                    any_byte(3),
                                    0};
    struct cup_cause cause;
    cup_proof_see(&proof, &state, depth);
    cup_proof_left(&proof, &state, any_ms());
    cup_proof_judge(&proof, &state, any_ms(), depth, &cause);
    cup_proof_stop(&proof, &state, any_ms());
    cup_proof_settle(&proof, &state, any_ms(), depth, any_byte(3));
    struct cup_per_day day = {any_ms(), any_ms(), any_ms() | 1u, any_word()};
    struct cup_per_day_state ran = {any_ms(), any_ms(), any_ms(), any_word(),
                                    0};
    cup_per_day_cause(&day, &ran, any_ms(), any_byte(1), &cause);
    cup_per_day_left(&day, &ran, any_ms());
    cup_per_day_start(&ran);
    cup_per_day_stop(&ran, any_ms());
    struct cup_travel travel = {any_ms() | 1u, any_word() % 10001u};
    struct cup_travel_state moves = {any_ms(), any_word() % 10001u,
                                     any_byte(1)};
    cup_travel_place(&travel, &moves, any_ms(), any_byte(1));
    cup_travel_reverse(&travel, &moves, any_ms(), any_byte(1));
    cup_travel_left(&travel, &moves, any_ms(), any_byte(1));
}

/* Points as a plan has them: two that differ, shares within bounds. */
static void speeds_and_buttons(void)
{
    struct cup_speed_point falls[2] = {
        {3400, (uint16_t)Frama_C_interval(0, 10000)},
        {2000, (uint16_t)Frama_C_interval(0, 10000)}};
    struct cup_speed speed = {falls, 2};
    cup_speed_place(&speed, any_int());
    struct cup_button_state state = {any_ms(), any_word(), 0};
    cup_button_step(&state, any_ms(), any_byte(1), any_byte(1));
    const cup_value marks[2] = {1500, 4000};
    struct cup_bar bar = {marks, 0, 2, any_byte(1)};
    cup_bar_lights(&bar, cup_bar_lit(&bar, any_int()), any_byte(15));
    struct cup_signal signal = {any_byte(1)};
    cup_pattern_lit(cup_signal_pattern(&signal, any_byte(255)), any_ms());
}

int main(void)
{
    speeds_and_buttons();
    latches();
    doses_and_turns();
    pumps();
    proofs_and_watches();
    return 0;
}
