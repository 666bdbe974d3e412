#!/bin/sh
# Makes one small change at a time in the core and sees whether the quick tests
# notice: mutate.sh [EVERY [FILES...]] takes every EVERYth of them (1: all).
# Ends in a line of figures; survivors are in build/mutate/survivors.
set -eu
cd "$(dirname "$0")/../.."
every=${1:-1}
[ $# -eq 0 ] || shift
files=${*:-$(ls src/measure/*.c src/decide/*.c src/act/*.c)}
to=build/mutate
mkdir -p $to
{ [ -e $to/build.ninja ] || cmake --preset mutate >/dev/null; } &&
    cmake --build --preset mutate >$to/build.log 2>&1 || {
    cat $to/build.log
    exit 1
}
# A board's core, of which some code is built for no other: one.sh plays it, too.
mkdir -p $to/board $to/whole
$to/cuplatch bake examples/board/board.ini --bare -o $to/board/plan.c
for file in src/*/*.c $to/board/plan.c firmware/vectors/uneven.c; do
    tests/mutate/compile.sh $to whole "$file" "$file" \
        "$to/whole/$(basename "$file").o"
    tests/mutate/compile.sh $to board "$file" "$file" \
        "$to/board/$(basename "$file").o"
done
cc -o $to/board/uneven $to/board/*.o
# Its curves have a test of their own.
mkdir -p $to/narrow
for file in src/measure/curve.c src/measure/curve_make.c \
    tests/core/test_narrow.c tests/harness/harness.c; do
    tests/mutate/compile.sh $to narrow "$file" "$file" \
        "$to/narrow/$(basename "$file").o"
done
$to/board/uneven >$to/board/sum
# shellcheck disable=SC2086
awk -f tests/mutate/mutants.awk $files |
    awk -v every="$every" 'NR % every == 0' >$to/mutants
rm -f $to/caught $to/survivors $to/broken $to/same
touch $to/caught $to/survivors $to/broken $to/same
# Those that change nothing are judged in judged.txt, with the reason.
cut -f 1 tests/mutate/judged.txt >$to/judged
tr '\n' '\0' <$to/mutants |
    xargs -0 -n 1 -P "$(nproc)" tests/mutate/one.sh $to
caught=$(wc -l <$to/caught)
lived=$(wc -l <$to/survivors)
echo "mutate: $caught of $((caught + lived)) caught," \
    "$(wc -l <$to/broken) did not compile," \
    "$(wc -l <$to/same) change nothing"
cat $to/survivors
