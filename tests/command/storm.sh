#!/bin/sh
# A storm over a fortnight of Keeper's Garden: the power cut at 250 moments, for
# a blink or for twenty minutes, and the clock set at 60, rightly or wrongly. Beds
# stay as they should be, no pump runs dry or trips, and floods are no more than
# without it. Use: storm.sh CUPLATCH EXAMPLES SEED...
set -eu
cuplatch=$1
keeper=$2
shift 2
told=$(mktemp -d)
trap 'rm -rf "$told"' EXIT

# A fault or a visit a line, as they are typed.
storm() {
    awk -v seed="$1" '
        function moment() { return 600 + int(rand() * (14 * 86400 - 4200)) }
        BEGIN {
            srand(seed)
            split("1 1 1 5 60 600 1200", away)
            split("-3600 -120 -1 0 0 0 1 90 3600", off)
            for (i = 0; i < 250; i++)
                printf "--fault\nreboot of controller at %ds for %ds\n",
                    moment(), away[1 + int(rand() * 7)]
            for (i = 0; i < 60; i++) {
                at = moment()
                s = at + off[1 + int(rand() * 9)]
                printf "--visit\nsite clock 2031-05-%02dT%02d:%02d:%02d " \
                    "at %ds\n", 10 + int(s / 86400), int(s / 3600) % 24,
                    int(s / 60) % 60, s % 60, at
            }
        }'
}

fortnight() {
    seed=$1
    file=$2
    shift 2
    "$cuplatch" rehearse "$keeper/keeper.ini" --json --days 14 --seed "$seed" \
        --garden "$keeper/keeper.garden.ini" "$@" >"$told/$file"
}

for seed in "$@"; do
    fortnight "$seed" calm
    set -f
    IFS='
'
    # shellcheck disable=SC2046
    fortnight "$seed" storm $(storm "$seed")
    unset IFS
    set +f
    awk -v seed="$seed" '
        function wrong(what) { print "seed " seed ": " what; bad = 1 }
        function of(key) {
            if (!match($0, "\"" key "\":[-+.e0-9]*")) return wrong("no " key)
            return substr($0, RSTART + length(key) + 3, RLENGTH) + 0
        }
        /^{"trouble":"reboot"/ { boots += /"told":true/ }
        /^{"bed"/ { beds++; if (of("dry_h") + of("wet_h") > 0) wrong($0) }
        /^{"pump"/ {
            pumps++
            if (of("dry_s") + of("trips") + of("unanswered") > 0) wrong($0)
        }
        /^{"pump":"tray_pump"/ {
            if (FILENAME ~ /calm$/) floods = of("moved_l")
            else if (of("moved_l") > floods * 1.02 ||
                     of("moved_l") < floods * 0.8)
                wrong(of("moved_l") " L of floods, " floods " L without it")
        }
        END {
            if (beds != 4 || pumps != 8) wrong("not all was told")
            if (boots < 200) wrong("only " boots " boots")
            exit bad
        }' "$told/calm" "$told/storm"
    echo "seed $seed: a storm, and all is as it should be"
done
