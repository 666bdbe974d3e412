#!/bin/sh
# The same seed gives the same files; another does not; and what was recorded
# gives the same events when it is replayed.
set -eu
cuplatch=$1
keeper=$2
scratch=$(mktemp -d)
trap 'rm -rf "$scratch"' EXIT

rehearse() {
    "$cuplatch" rehearse "$keeper/keeper.ini" --days 1.2 --seed "$1" \
        --garden "$keeper/keeper.garden.ini" --out "$2" \
        --fault "leak of header at 7h for 2h" \
        --fault "torn of tunnel_air at 9h for 1h" \
        --fault "stuck of cistern_echo at 12h for 1h" >"$2.txt"
}

rehearse 5 "$scratch/one"
rehearse 5 "$scratch/two"
rehearse 6 "$scratch/other"
for file in events.jsonl levels.csv raw.csv; do
    cmp "$scratch/one/$file" "$scratch/two/$file"
    cmp -s "$scratch/one/$file" "$scratch/other/$file" && {
        echo "$file does not depend on the seed"
        exit 1
    }
done
# what the journal says is not in a log
events() {
    sed -e 's/,"s":[0-9]*}$/}/' "$1" | grep -v '"of":"site"'
}
"$cuplatch" replay "$keeper/keeper.ini" "$scratch/one/raw.csv" --json \
    --from 2031-05-10 \
    >"$scratch/replayed"
events "$scratch/one/events.jsonl" >"$scratch/rehearsed"
events "$scratch/replayed" | cmp "$scratch/rehearsed" -
[ "$(wc -l <"$scratch/rehearsed")" -gt 50 ]

# A controller that boots with its count of ms about to wrap goes on as ever.
"$cuplatch" rehearse "$keeper/keeper.ini" --days 1 \
    --garden "$keeper/keeper.garden.ini" --out "$scratch/wrapped" \
    --fault "wrap of controller at 6h for 1m" >"$scratch/wrapped.txt"
sed 's/.*"t_ms":\([0-9]*\).*/\1/' "$scratch/wrapped/events.jsonl" |
    sort -n -c
[ "$(grep -c '"kind":"boot"' "$scratch/wrapped/events.jsonl")" -ge 2 ]
[ "$(grep -c '"kind":"start"' "$scratch/wrapped/events.jsonl")" -gt 10 ]
