#!/bin/sh
# Refuses any circle of files: by what their objects define and use in BUILD, one
# needs another, and none by any way itself. And holds the names of src/site to
# their files: what is not public begins with cup_in_ and the name of its file.
# circles.sh BUILD
set -eu
cd "$(dirname "$0")/../.."
build=$1
scratch=$(mktemp -d)
trap 'rm -rf "$scratch"' EXIT

# A line for each name that an object defines (T) or uses (U), with its file.
find "$build/CMakeFiles/cuplatch_core.dir" "$build/CMakeFiles/cuplatch_loop.dir" "$build/cmake/host" -name '*.c.o' -print0 |
    xargs -0 nm -A -P |
    sed 's|^.*\.dir/\(__/__/\)\{0,1\}\([^:]*\)\.o: |\2 |' |
    awk '$3 ~ /^[TDBR]$/ {print $2, "T", $1} $3 == "U" {print $2, "U", $1}' |
    while read -r name kind file; do
        [ ! -e "$file" ] || echo "$name $kind $file" # else of a file that is gone
    done | sort >"$scratch/names"

# Which file needs which.
awk '$2 == "T" {at[$1] = $3}
    {line[NR] = $0}
    END {for (i = 1; i <= NR; i++) {split(line[i], w, " ")
        if (w[2] == "U" && (w[1] in at) && at[w[1]] != w[3]) print w[3], at[w[1]]}}' \
    "$scratch/names" | sort -u >"$scratch/needs"
[ "$(wc -l <"$scratch/needs")" -gt 100 ] || { echo "no files found in $build"; exit 1; }
tsort "$scratch/needs" >/dev/null 2>"$scratch/circle" || {
    echo "these files go round in a circle:" >&2
    sed 's/^tsort: //' "$scratch/circle" >&2
    exit 1
}

# An arrow up among the stages of the core: measure, decide, act, the site, what is
# told of it, and last the loop that drives it all.
awk '{split($1, a, "/"); split($2, b, "/")}
    BEGIN {at["measure"] = 1; at["decide"] = 2; at["act"] = 3; at["site"] = 4; at["tell"] = 5; at["loop"] = 6}
    a[1] == "src" && b[1] == "src" && at[a[2]] < at[b[2]] {
        print $1 " needs " $2 ", which comes after it"; bad = 1}
    END {exit bad}' "$scratch/needs" >&2

# No .c declares by itself what another defines: that goes around its header, and around
# the rooms that may have it.
git ls-files -co --exclude-standard -- '*.c' | grep -vE '^(tests|examples|firmware)/' |
    xargs awk -v names="$scratch/names" '
    BEGIN {while ((getline line <names) > 0) {split(line, w, " "); if (w[2] == "T") at[w[1]] = w[3]}}
    /^[a-z].*\(/ && !/^(static|typedef)/ {
        name = $0; sub(/\(.*/, "", name); sub(/.*[^A-Za-z0-9_]/, "", name)
        whole = $0
        while (whole !~ /[;{]/ && (getline line) > 0) whole = whole line
        if (whole ~ /^[^{]*;/ && (name in at) && at[name] != FILENAME) {
            print FILENAME ":" FNR ": " name "() is of " at[name] "; include its header"
            bad = 1
        }
    }
    END {exit bad}' >&2

# Names inside the site.
grep -hoE '\bcup_[a-z0-9_]+\(' include/cuplatch/*.h | tr -d '(' | sort -u \
    >"$scratch/public"
awk '$2 == "T" && $3 ~ /^src\/site\// {print $1, $3}' "$scratch/names" |
    while read -r name file; do
        stem=$(basename "$file" .c)
        case $name in cup_in_"$stem" | cup_in_"$stem"_*) continue ;; esac
        grep -qx "$name" "$scratch/public" || {
            echo "$file: $name is neither public nor begins with cup_in_$stem" >&2
            exit 1
        }
    done

# Names of one file alone, in all that is linked together: another of the name
# would be taken for it.
awk '$2 == "T" && $1 != "main" {
        if (($1 in at) && at[$1] != $3) {print $1 " is in " at[$1] " and in " $3; bad = 1}
        at[$1] = $3}
    END {exit bad}' "$scratch/names" >&2

# Pairs of a .c and its .h: none needs one that needs it, whatever it is needed for.
git ls-files -co --exclude-standard -- '*.c' '*.h' | grep -vE '^(tests|examples|firmware)/' >"$scratch/files"
xargs awk '/^#include "/ {split($0, q, "\""); print FILENAME, q[2]}' <"$scratch/files" |
    awk -v files="$scratch/files" '
    function stem(path) {sub(/\.[ch]$/, "", path); return path}
    function plain(path) {
        while (match(path, /[^\/]+\/\.\.\//))
            path = substr(path, 1, RSTART - 1) substr(path, RSTART + RLENGTH)
        return path
    }
    BEGIN {while ((getline line <files) > 0) is[line] = 1}
    {
        from = $1; sub(/[^\/]*$/, "", from)
        to = plain(from $2)
        if (!(to in is)) to = "include/" $2
        a = stem($1); b = stem(to)
        if (a != b && ((b ".c") in is) && ((a ".c") in is)) print a, b
    }' | sort -u >"$scratch/pairs"
[ "$(wc -l <"$scratch/pairs")" -gt 300 ] || { echo "too few pairs found"; exit 1; }
tsort "$scratch/pairs" >/dev/null 2>"$scratch/circle" || {
    echo "these pairs of files go round in a circle:" >&2
    sed 's/^tsort: //' "$scratch/circle" >&2
    exit 1
}
