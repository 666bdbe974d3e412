#!/bin/sh
# Runs the fuzzer NAME for SECONDS on its seeds; ends in one line of figures.
set -eu
name=$1
seconds=$2
work=build/fuzz/corpus/$name
mkdir -p "$work"
build/fuzz/tests/fuzz/fuzz_"$name" -max_total_time="$seconds" -max_len=4096 \
    -artifact_prefix=build/fuzz/"$name"- "$work" tests/fuzz/corpus/"$name" \
    >"build/fuzz/$name.log" 2>&1 || {
    tail -n 30 "build/fuzz/$name.log" >&2
    exit 1
}
echo "fuzz_$name: $(grep -oE 'Done [0-9]+ runs' "build/fuzz/$name.log") in $seconds s, no finding"
