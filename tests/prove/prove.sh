#!/bin/sh
# Proves the heart with Frama-C: contracts (WP, with a check of every operation
# that could go wrong), then every part with arbitrary plans, states and inputs
# (Eva). Ends in a line with goals proved and alarms; fails when any is left.
#
# Not proved, and covered by a test instead:
#   curve    that the estimate along a piece is at most two short: relations
#            between a slope and a distance which neither follows; every 16-bit
#            input of many curves is looked up under UBSan (tests: curve)
#   window   that both halves of the cells hold the same samples: the contracts
#            of the sorted half rest on it; random windows of every shape are
#            held to a sort under ASan (tests: window)
set -eu
cd "$(dirname "$0")/../.."
log=build/prove
mkdir -p $log
proved=0
goals=0
left=0

# contracts FILE FUNCTIONS
contracts() {
    frama-c -c11 -cpp-extra-args="-Iinclude" -machdep gcc_x86_64 -wp -wp-rte \
        -wp-prover cvc4 -wp-timeout 20 -wp-par "${CUPLATCH_JOBS:-2}" -wp-fct "$2" "tests/prove/$1.c" \
        >"$log/$1.log" 2>&1 || {
        tail -n 20 "$log/$1.log"
        exit 1
    }
    found=$(sed -n 's/.*Proved goals: *\([0-9]*\) \/ \([0-9]*\).*/\1 \2/p' \
        "$log/$1.log")
    proved=$((proved + ${found% *}))
    goals=$((goals + ${found#* }))
    echo "$1: ${found% *} of ${found#* } goals"
    grep 'Goal' "$log/$1.log" | grep -v ': Valid' || true
}

# parts FILE SOURCES...: no alarm, and every statement reached.
parts() {
    name=$1
    shift
    frama-c -c11 -cpp-extra-args="-Iinclude" -machdep gcc_x86_64 -eva \
        -eva-precision "${precision:-4}" "tests/prove/$name.c" "$@" >"$log/$name.log" 2>&1 || {
        tail -n 20 "$log/$name.log"
        exit 1
    }
    alarms=$(sed -n 's/^ *\([0-9]*\) alarms\{0,1\} generated.*/\1/p' \
        "$log/$name.log")
    echo "$name: $alarms alarms," "$(grep -oE \
        '[0-9]+ statements reached \(out of [0-9]+\)' "$log/$name.log")"
    grep '\[eva:alarm\]' "$log/$name.log" || true
    left=$((left + alarms))
}

grep -qs CVC4 "${HOME:-.}/.why3.conf" || why3 config detect >/dev/null 2>&1
contracts time cup_elapsed,cup_is_over,cup_is_beyond,cup_left,cup_least,cup_plus,cup_minus
contracts latch crossed,cup_latch_step,cup_latch_past_stop,cup_latch_release,cup_latch_left
contracts guard cup_guard_reason,reason_of,cup_guard_step,cup_cause_set,cup_cause_values,cup_guard_cause
contracts pump cup_set_bits,cup_pump_is,cup_pump_set,cup_pump_ready,cup_pump_start,cup_pump_stop,cup_pump_trip,cup_pump_clear,cup_pump_end_hand,cup_pump_ran_longest
contracts window find_place,cup_window_add,cup_window_mean,cup_window_spread
contracts curve piece_of,round_half_away
contracts span span_lower,span_higher,widen,span_close,reach_out,cup_span_widen,cup_span_is,span_is_over
contracts steady cup_gap,cup_checks_steady
parts eva_parts src/measure/curve.c src/decide/*.c src/act/*.c
parts eva_measure src/measure/crc.c src/measure/frames.c src/measure/range.c \
    src/measure/modbus.c src/measure/curve.c src/measure/span.c \
    src/measure/drawn.c
# more precision finds no more here, and takes ten times as long
precision=1
parts eva_modem src/modem/*.c
echo "prove: $proved of $goals goals proved, $left alarms"
[ "$proved" -eq "$goals" ] && [ "$left" -eq 0 ]
