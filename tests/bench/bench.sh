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

# steps COMMAND...: instructions of COUNT steps of a command.
steps() {
    one=$(instructions "$@" "$count")
    two=$(instructions "$@" "$((2 * count))")
    echo "$((two - one))"
}

# figure NAME BUDGET COUNT KIND SITE: one pass, less the empty loop.
figure() {
    name=$1 budget=$2 count=$3 kind=$4 site=$5
    full=$(steps $build/tests/bench_pass "$site" "$kind")
    empty=0
    [ "$kind" = idle ] || empty=$(steps $build/tests/bench_pass "$site" empty)
    each=$(((full - empty) / count))
    printf '%-44s %7d   budget %7d\n' "$name" "$each" "$budget"
    [ "$each" -le "$budget" ] || over=1
}

echo "instructions on $(uname -m), $(gcc --version | head -n 1)"
site=examples/keeper/kale.ini
figure "a pass with nothing due" 150 10 idle $site
figure "a pass with both sensors sampled" 1000 1000 sampled $site
[ "$check" != check ] || exit "$over"
