#!/bin/sh
# A site with ten more dosed beds, each with a probe and a pump of its own.
set -eu
cat "$1"
for i in 0 1 2 3 4 5 6 7 8 9; do
    cat <<END

[probe_$i]
is = sensor
measures = moisture
form = counts
port = adc:$((i + 4))
dry = 910
wet = 410
every = 1s
smooth = median 5
lost_after = 1m

[pump_$i]
is = pump
port = relay:$((i + 3))
from = header
dry_below = 10%
dry_clear = 14%
rest = 30s
longest = 10m

[bed_$i]
is = duty
run = pump_$i
keep = probe_$i
start = 50%
stop = 58%
dose = 90s
soak = 7m
doses = 12
END
done
