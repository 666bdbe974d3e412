#!/bin/sh
# The simulated garden live does what a rehearsal does: the same events, second
# by second, but for those of the end; it is asked, told and looked at meanwhile.
# Use: live.sh CUPLATCH EXAMPLES
set -eu
cuplatch=$1
keeper=$2
scratch=$(mktemp -d)
trap 'rm -rf "$scratch"' EXIT

"$cuplatch" rehearse "$keeper/keeper.ini" --garden "$keeper/keeper.garden.ini" \
    --days 7 --seed 5 --from 2031-07-01 --out "$scratch/rehearsed" >/dev/null
"$cuplatch" run "$keeper/keeper.ini" --port sim \
    --garden "$keeper/keeper.garden.ini" --speed 100000 --for 7d --seed 5 \
    --from 2031-07-01 --socket "$scratch/socket" --record "$scratch/live" \
    2>/dev/null
events=$(wc -l <"$scratch/rehearsed/events.jsonl")
[ "$events" -gt 300 ]
head -n "$events" "$scratch/live/events.jsonl" |
    cmp - "$scratch/rehearsed/events.jsonl"
for file in levels.csv truth.csv raw.csv; do
    cmp "$scratch/rehearsed/$file" "$scratch/live/$file"
done
echo "$events events are the same"

# Meanwhile: what is asked, told and seen of one that runs.
mkfifo "$scratch/said"
socket=$scratch/socket
"$cuplatch" run "$keeper/keeper.ini" --port sim \
    --garden "$keeper/keeper.garden.ini" --speed 150 --from 2031-07-01 \
    --socket "$socket" 2>"$scratch/said" &
running=$!
trap 'kill $running 2>/dev/null || :; wait || :; rm -rf "$scratch"' EXIT
read -r line <"$scratch/said"
[ "$line" = "cuplatch: keeper runs; its socket is $socket" ]

expect() {
    code=$1
    said=$2
    shift 2
    got=0
    "$cuplatch" "$@" --socket "$socket" >"$scratch/got" 2>&1 || got=$?
    [ "$got" -eq "$code" ] && grep -q "$said" "$scratch/got" || {
        echo "$*: expected exit $code and \"$said\", got $got:"
        cat "$scratch/got"
        exit 1
    }
}
expect 0 '^done$' tell lift off
expect 0 'lift\|cistern' ask why lift
expect 1 'expected hand, off, auto' tell lift sideways
expect 1 'there is nothing of that name' ask why moon
expect 0 '"done":true' ask alerts --json
expect 0 '^kelp_bin [0-9.]* %' ask levels
expect 0 "^Keeper's Garden  *01 Jul 2031" look --live --once
expect 0 '^  lift .*off' look --live --once
expect 0 'lift is switched off, by ' look --live --once
# What a pump gives, measured by running it, once levels are believed: not while
# another moves its tank.
cp "$keeper/keeper.ini" "$scratch/site.ini"
for pump in bed_pump tray_pump trough_pump; do
    expect 0 '^done$' tell "$pump" off
done
expect 0 '^done$' tell lift auto
expect 1 'longer than the pump.s hand_limit' \
    calibrate "$scratch/site.ini" --time lift --for 40m --yes
expect 2 'expected a pump with a tank' \
    calibrate "$scratch/site.ini" --time roof_vent --yes
expect 0 'flow = [89]\.[0-9]*L/min (new)' \
    calibrate "$scratch/site.ini" --time lift --for 5m --yes
grep -q '^flow = [89]' "$scratch/site.ini"
expect 0 '^done$' tell trough_pump hand 5m
expect 0 'trough_pump running' ask pumps
expect 1 'the pump runs already' \
    calibrate "$scratch/site.ini" --time trough_pump --for 2m --yes
expect 1 'trough_pump moved header meanwhile' \
    calibrate "$scratch/site.ini" --time tray_pump --for 2m --yes
grep -q "^flow = 4L/min" "$scratch/site.ini"
# How long a flood takes, by its float.
expect 2 'expected the float of a duty' \
    calibrate "$scratch/site.ini" --time lift --until tray_float --yes
expect 1 'stopped before tray_float answered' \
    calibrate "$scratch/site.ini" --time tray_pump --until tray_float \
    --for 1m --yes
expect 0 '^tray_float answered after [0-9]* s' \
    calibrate "$scratch/site.ini" --time tray_pump --until tray_float \
    --for 10m --yes
grep -q '^flood = [1-9][0-9]*s' "$scratch/site.ini"
expect 0 'tray_pump off' ask pumps
kill "$running"
wait "$running"
[ ! -e "$socket" ]
expect 3 'does a controller run there?' ask levels

# Without --socket it has its own place: for root that of the machine.
XDG_RUNTIME_DIR=$scratch
export XDG_RUNTIME_DIR
place=$scratch/cuplatch
[ "$(id -u)" -ne 0 ] || place=/run/cuplatch
id=live-test-$$
sed "s/^\[site\]/[site]\nid = $id/" "$keeper/keeper.ini" >"$scratch/own.ini"
"$cuplatch" run "$scratch/own.ini" --port sim \
    --garden "$keeper/keeper.garden.ini" --speed 150 --from 2031-07-01 \
    2>"$scratch/said" &
running=$!
read -r line <"$scratch/said"
echo "$line"
[ "${line##*; its socket is }" = "$place/$id.sock" ]
[ -S "$place/$id.sock" ]
kill "$running"
wait "$running"
[ ! -e "$place/$id.sock" ]
