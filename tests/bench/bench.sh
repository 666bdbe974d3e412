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

# steps COMMAND...: instructions of COUNT steps of a command, which takes their
# number, and then what is in STEP.
STEP=10
steps() {
    # shellcheck disable=SC2086
    one=$(instructions "$@" "$count" $STEP)
    # shellcheck disable=SC2086
    two=$(instructions "$@" "$((2 * count))" $STEP)
    echo "$((two - one))"
}

# report NAME BUDGET EACH: a line, and whether it is over; kept for those who look
# whether docs say the same.
mkdir -p build/bench
: >build/bench/figures
report() {
    echo "$1: $3" >>build/bench/figures
    printf '%-44s %7d   budget %7d\n' "$1" "$3" "$2"
    [ "$3" -le "$2" ] || over=1
}

# pass NAME BUDGET COUNT KIND SITE: one pass, less the empty loop.
pass() {
    count=$3
    full=$(steps $build/tests/bench_pass "$5" "$4")
    empty=0
    [ "$4" = idle ] || empty=$(steps $build/tests/bench_pass "$5" empty)
    report "$1" "$2" $(((full - empty) / count))
}

# window NAME BUDGET SIZE TRIM: one sample, less the empty loop.
window() {
    count=4096
    full=$(steps $build/tests/bench_window "$3" "$4")
    empty=$(steps $build/tests/bench_window "$3" -1)
    report "$1" "$2" $(((full - empty) / count))
}

echo "instructions on $(uname -m), $(gcc --version | head -n 1)"
site=examples/keeper/kale.ini
pass "a pass with nothing due" 150 10 idle $site
pass "a pass with both sensors sampled" 1700 1000 sampled $site
pass "Keeper's Garden, 10 ms apart" 900 1000 idle examples/keeper/keeper.ini
pass "Keeper's Garden, all 13 sensors sampled" 11500 200 sampled \
    examples/keeper/keeper.ini
window "a sample, as it comes" 60 1 0
window "a sample, median 5" 150 5 2
window "a sample, trimmed 11 3" 250 11 3
window "a sample, median 31" 600 31 15
window "a sample, mean 31" 700 31 0

# Linear: each costs the same, however many there are.
STEP=1000
[ "$check" = check ] && most="" || most=1000
for many in 1 10 100 $most; do
    mkdir -p build/bench
    tests/bench/many.sh "$many" >build/bench/many.ini
    count=4
    full=$(steps $build/tests/bench_pass build/bench/many.ini sampled)
    empty=$(steps $build/tests/bench_pass build/bench/many.ini empty)
    report "a pass of $many sampled, pumped and kept, each" 700 \
        $(((full - empty) / count / many))
done
# A step of a careful loop written by hand for just that yard, beside ours over
# the same raw values.
STEP=
count=20000
yard=examples/compare/yard.ini
empty=$(steps $build/tests/bench_loops $yard empty)
careful=$((($(steps $build/tests/bench_loops $yard careful) - empty) / count))
latch=$((($(steps $build/tests/bench_loops $yard latch) - empty) / count))
echo "a second of the yard: careful loop $careful, Cup Latch $latch," \
    "$((latch * 10 / careful / 10)).$((latch * 10 / careful % 10)) times that"

# A second of the garden with its pass; a year has 31.5 million.
rehearsed() {
    instructions $build/cuplatch rehearse examples/keeper/keeper.ini --garden \
        examples/keeper/keeper.garden.ini --json "$@"
}
out=build/bench/rehearsed
seconds=4320
report "a second rehearsed" 7200 \
    $((($(rehearsed --days 0.1) - $(rehearsed --days 0.05)) / seconds))
report "a second rehearsed with --out" 11300 \
    $((($(rehearsed --days 0.1 --out $out) -
        $(rehearsed --days 0.05 --out $out)) / seconds))

# A value that differs each second, from its line of JSON to its row; and what a
# month of the garden takes on the disk, for each sensor and tank.
history=build/bench/history.db
taken() {
    rm -f $history
    instructions $build/tests/bench_history $history "$1"
}
report "a value into a history" 9700 $((($(taken 400) - $(taken 200)) / 200 / 50))
rm -f $history*
$build/cuplatch rehearse examples/keeper/keeper.ini --garden \
    examples/keeper/keeper.garden.ini --days 30 --history $history >/dev/null
report "bytes of a thing a month, of 16" 160000 $(($(wc -c <$history) / 16))
# shellcheck disable=SC2046
printf 'a month of one thing out of it: %s ms, %s rows\n' \
    $($build/tests/bench_history $history read)

tests/lint/figures.sh build/bench/figures || over=1

# The rest is for the eye.
[ "$check" != check ] || exit "$over"

# A year of fifty things, each of which has moved every ten minutes: in a time that
# grows with it, and no slower to look into than a month.
year=build/bench/year.db
rm -f $year*
began=$(date +%s%N)
$build/tests/bench_history $year 31536000 600
took=$((($(date +%s%N) - began) / 1000000))
# shellcheck disable=SC2046
printf 'a year of fifty things, every ten minutes: %s ms, %s MB; a month of one out of it: %s ms, %s rows\n' \
    $took $(($(wc -c <$year) / 1000000)) $($build/tests/bench_history $year read)
began=$(date +%s%N)
$build/cuplatch report $year --week >build/bench/year.txt
echo "a week of it as a report: $((($(date +%s%N) - began) / 1000000)) ms"
rm -f $year*

# How late passes are while 32 peers are there, some of them
# rude; half a minute of a hundred passes a second.
socket=build/bench/live.sock
$build/cuplatch run examples/keeper/keeper.ini --port sim --garden \
    examples/keeper/keeper.garden.ini --speed 100 --for 3000s \
    --socket $socket 2>build/bench/live.log &
running=$!
tries=100
until [ -S $socket ]; do
    tries=$((tries - 1))
    [ "$tries" -gt 0 ] || { cat build/bench/live.log >&2; exit 1; }
    sleep 0.1
done
$build/tests/bench_followers $socket 29
wait $running
tail -n 1 build/bench/live.log

# Two hundred pages open at once, for twenty seconds.
pages=build/bench/pages
rm -rf $pages
mkdir -p $pages
cat >$pages/serve.ini <<END
[garden]
is = site
socket = $PWD/$pages/garden.sock

[page]
listen = 127.0.0.1:8469
keys = $PWD/$pages/keys
END
key=$($build/cuplatch-serve $pages/serve.ini --new-key bench 2>/dev/null)
$build/cuplatch run examples/keeper/keeper.ini --port sim --garden \
    examples/keeper/keeper.garden.ini --speed 100 --for 3000s \
    --socket $pages/garden.sock 2>$pages/live.log &
running=$!
$build/cuplatch-serve $pages/serve.ini 2>$pages/serve.log &
serving=$!
tries=100
until grep -q "is there" $pages/serve.log; do
    tries=$((tries - 1))
    [ "$tries" -gt 0 ] || { cat $pages/serve.log >&2; exit 1; }
    sleep 0.1
done
alone=$(awk '/VmRSS/ {print $2}' /proc/$serving/status)
$build/tests/bench_pages 8469 "$key" 200 20
echo "cuplatch-serve: $alone kB without them, $(awk '/VmHWM/ {print $2}' \
    /proc/$serving/status) kB at the most"
wait $running
tail -n 1 $pages/live.log
kill $serving
wait $serving

# How fast this machine is just now.
for how in "idle 20000000" "sampled 500000"; do
    # shellcheck disable=SC2086
    echo "Keeper's Garden, ${how% *}: $($build/tests/bench_pass \
        examples/keeper/keeper.ini $how 10)"
done
