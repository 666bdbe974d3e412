#!/bin/sh
# Counts instructions with callgrind: a figure is the difference between two
# runs of different length, so that reading the site file does not count.
# With `check`, fails when a figure is over its budget.
set -eu
cd "$(dirname "$0")/../.."
build=build/release
check=${1-}
over=0

instructions() {
    valgrind --tool=callgrind --callgrind-out-file=/dev/null "$@" 2>&1 |
        awk '/Collected/ {print $4}'
}

# figure NAME BUDGET COUNT COMMAND...: per step, between COUNT and 2 COUNT.
figure() {
    name=$1 budget=$2 count=$3
    shift 3
    one=$(instructions "$@" "$count")
    two=$(instructions "$@" "$((2 * count))")
    each=$(((two - one) / count))
    printf '%-44s %7d   budget %7d\n' "$name" "$each" "$budget"
    [ "$each" -le "$budget" ] || over=1
}

echo "instructions on $(uname -m), $(gcc --version | head -n 1)"
site=examples/keeper/kale.ini
figure "a pass with nothing due" 150 10 $build/tests/bench_pass $site idle
figure "a pass with both sensors sampled" 1000 1000 \
    $build/tests/bench_pass $site sampled
[ "$check" != check ] || exit "$over"
