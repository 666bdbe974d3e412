#!/bin/sh
# Holds every folder to its row of rooms.txt: what its files include is found as
# the compiler finds it, beside the file or in include/. A folder without a row
# fails, and so do rows that go round in a circle. rooms.sh [TREE]
set -eu
here=$(cd "$(dirname "$0")" && pwd)
cd "${1:-$here/../..}"
scratch=$(mktemp -d)
trap 'rm -rf "$scratch"' EXIT
find . -name build -prune -o -name node_modules -prune -o -name '*.[ch]' -print |
    sed 's|^\./||' | sort >"$scratch/files"
xargs grep -nE '^[ 	]*(#|%:|\?\?=)[ 	]*include' <"$scratch/files" >"$scratch/includes"

awk -v needs="$scratch/needs" -v rooms="$here/rooms.txt" -f "$here/rooms.awk" \
    "$here/rooms.txt" "$scratch/files" "$scratch/includes" >&2

# Rows: no folder needs one that needs it, but for headers that were named.
tsort "$scratch/needs" >/dev/null 2>"$scratch/circle" || {
    echo "rooms.txt: these go round in a circle:" >&2
    sed 's/^tsort: //' "$scratch/circle" >&2
    exit 1
}

# What a block leaves out is left out by CUP_IF and CUP_WHERE: no condition of the
# preprocessor stands inside a function of the core.
awk 'FNR == 1 {depth = 0}
    /^#if/ && depth > 0 {print FILENAME ":" FNR ": " $0 " inside a function"; bad = 1}
    !/^#/ {depth += gsub(/{/, "{") - gsub(/}/, "}")}
    END {exit bad}' src/*/*.[ch] >&2
