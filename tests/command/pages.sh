#!/bin/sh
# What the page of each shape says to type is typed, and says what the page says.
set -eu
cuplatch=$1
pages=$2
scratch=$(mktemp -d)
trap 'rm -rf "$scratch"' EXIT
mkdir "$scratch/bin"
ln -s "$cuplatch" "$scratch/bin/cuplatch"
PATH=$scratch/bin:$PATH
cd "$scratch"

for page in "$pages"/shape-*.md; do
    # commands, whole, a line each
    awk '/^    \$ / || more {
        sub(/^ +(\$ )?/, "")
        more = sub(/\\$/, "")
        printf "%s%s", $0, more ? "" : "\n"
    }' "$page" >typed
    sed -i 's/^cuplatch begin [a-z]*$/& --yes/' typed
    [ "$(wc -l <typed)" -ge 2 ] || { echo "$page: nothing to type"; exit 1; }
    sh -e ./typed >told
    sed -n 's/^    \(day .*\)/\1/p' "$page" >expected
    [ -s expected ] || { echo "$page: nothing to see"; exit 1; }
    while read -r line; do
        grep -qF "$line" told || {
            echo "$page: not told: $line"
            cat told
            exit 1
        }
    done <expected
done
