#!/bin/sh
# Advice on gardens that nobody has seen: noise, spikes, silences and
# lags are drawn, days are recorded, what is advised is written, days after that
# are recorded and advised on once more, and other days of the same garden are
# played by both files.
#
# Use: tests/advice/gardens.sh BIN [GARDENS [SEED]]; BIN holds cuplatch and
# examples/compare. One that is worse in dry seconds or overflow fails, and so do
# more than one in ten that are worse in anything.
set -eu

bin=$1
gardens=${2:-10}
seed=${3:-$(date +%s)}
dir=$(mktemp -d)
trap 'rm -r "$dir"' EXIT

# Draws a garden and a site file from a seed; every second file has no guards at
# its sensors, and doses by guess.
draw() {
    awk -v seed="$1" '
        BEGIN {srand(seed)}
        function drawn(from, to) {return from + (to - from) * rand()}
        /^noise/ {$0 = sprintf("noise = %d", drawn(4, 30))}
        /^missing/ {$0 = sprintf("missing = %.1f%%", drawn(0.5, 12))}
        /^spikes/ {$0 = sprintf("spikes = %.1f%%", drawn(0.2, 8))}
        /^delay/ {$0 = sprintf("delay = %dm", drawn(2, 12))}
        /^used/ {$0 = sprintf("used = %d", drawn(20, 90))}
        {print}' examples/compare/yard.garden.ini >"$dir/garden.ini"
    awk -v seed="$1" '
        BEGIN {srand(seed + 1); bare = rand() < 0.5}
        bare && /^(plausible|jump|stuck|smooth|lost_after)/ {next}
        bare && /^dose = / {$0 = sprintf("dose = %ds", 60 + 240 * rand())}
        bare && /^soak/ {$0 = sprintf("soak = %dm", 2 + 20 * rand())}
        {print}' examples/compare/yard.ini >"$dir/site.ini"
}

# Two rows a figure: what was, and what was advised. More starts are no worse where
# beds are nearer to their band for it: one that was not watered had none.
verdict() {
    awk '/^(dry|overflow|starts|off band|missed)/ {figure = $1; row = 0; next}
        /^  / && figure {
            if (++row == 1) {was = $2; next}
            if (row > 2) next
            worse = $2 > was * 1.03 + (figure == "off" ? 1 : figure == "starts" ? 2 : 0.5)
            printf "%s %s>%s%s  ", figure, was, $2, worse ? " WORSE" : ""
            if (figure == "starts") often = worse
            else if (worse) bad = 1
            if (figure == "off" && $2 < was - 1) nearer = 1
            if (worse && (figure == "dry," || figure == "overflow")) harm = 1}
        /^to beds/ {figure = ""}
        END {bad = bad || (often && !nearer); print bad ? (harm ? "harm" : "worse") : "good"}'
}

worse=0
harm=0
i=0
while [ "$i" -lt "$gardens" ]; do
    at=$((seed + i * 100))
    draw "$at"
    cp "$dir/site.ini" "$dir/advised.ini"
    for round in 1 2; do
        "$bin/cuplatch" rehearse "$dir/advised.ini" --garden "$dir/garden.ini" \
            --days 4 --seed $((at + round)) --out "$dir/days" --json >/dev/null
        "$bin/cuplatch" advise "$dir/advised.ini" "$dir/days/raw.csv" \
            --write --yes >"$dir/advice.$round"
    done
    written=$(sed -n 's/^\([0-9]*\) written.*/\1/p' "$dir"/advice.* | tr '\n' ' ')
    result=$("$bin/examples/compare" 3 $((at + 7)) 3 3 "$dir/garden.ini" \
        "$dir/site.ini" "$dir/advised.ini" | verdict)
    echo "garden $at: written ${written:-none}: $result"
    case $result in
    *worse) worse=$((worse + 1)) ;;
    *harm) worse=$((worse + 1)) harm=$((harm + 1)) ;;
    esac
    if [ -n "${KEEP:-}" ]; then
        mkdir -p "$KEEP/$at"
        cp "$dir"/*.ini "$dir"/advice.* "$KEEP/$at"
    fi
    i=$((i + 1))
done
echo "$worse of $gardens are worse in something, $harm in what does harm"
[ "$harm" -eq 0 ] && [ $((worse * 10)) -le "$gardens" ]
