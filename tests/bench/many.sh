#!/bin/sh
# Writes a site of so many sensors, each with its pump and its duty.
set -eu
echo "[site]"
i=0
while [ "$i" -lt "$1" ]; do
    cat <<END
[soil$i]
is = sensor
measures = moisture
form = counts
port = adc:$i
dry = 2910
wet = 1180
plausible = 300..3800
every = 10s
smooth = median 5
lost_after = 5m
[pump$i]
is = pump
port = relay:$i
longest = 10m
rest = 30s
[bed$i]
is = duty
run = pump$i
keep = soil$i
start = 34%
stop = 66%
END
    i=$((i + 1))
done
