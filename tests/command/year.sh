#!/bin/sh
# Keeper's Garden for a year without faults: no healthy pump trips, none runs
# dry, beds and trough are dry only in a drought that was told, and the books
# close. Use: year.sh CUPLATCH EXAMPLES SEED...
set -eu
cuplatch=$1
keeper=$2
shift 2
told=$(mktemp)
trap 'rm -f "$told"' EXIT

for seed in "$@"; do
    "$cuplatch" rehearse "$keeper/keeper.ini" \
        --garden "$keeper/keeper.garden.ini" --days 365 --seed "$seed" >"$told"
    awk -v seed="$seed" '
        function wrong(what) { print "seed " seed ": " what; bad = 1 }
        /^day .* alert/ { alerts[$4] = 1 }
        /^day .* (trip|lock|leak) / { wrong($0) }
        /without a word|while it was well|books are off/ { wrong($0) }
        /dry for/ { if (!/dry for 0 s/) wrong($0); pumps++ }
        /h too dry/ { dry[$1] = $2; beds++ }
        /^  (cistern|header|trough) +[0-9.]+ % to/ { lowest[$1] = $2 }
        END {
            if (pumps != 4 || beds != 2) wrong("not all was told")
            for (bed in dry)
                if (dry[bed] > 0 && !alerts["header_low"])
                    wrong(bed " was dry " dry[bed] " h without an alert")
            if (lowest["trough"] < 20 && !alerts["header_low"])
                wrong("the trough was empty without an alert")
            if (lowest["header"] < 11 && !alerts["header_low"] ||
                lowest["header"] > 13 && alerts["header_low"])
                wrong("the header was at " lowest["header"] " %")
            if ((lowest["cistern"] < 19) > alerts["cistern_low"] + 0)
                wrong("the cistern was at " lowest["cistern"] " %")
            for (of in alerts)
                if (of !~ /^(kelp|cistern|header|battery)_low$|^frost$/)
                    wrong("an alert of " of)
            exit bad
        }' "$told"
    echo "seed $seed: a year as it should be"
done
