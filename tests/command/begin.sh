#!/bin/sh
# Each first file passes check without a warning, and rehearses a month of each
# season without an alert and without an hour that a bed is too dry or too wet;
# with a tank of other measures, too.
set -eu
cuplatch=$1
scratch=$(mktemp -d)
trap 'rm -rf "$scratch"' EXIT
cd "$scratch"

# wrong WHAT FILE: says so, and shows the file.
wrong() {
    echo "$1"
    cat "$2"
    exit 1
}

# a_month SITE FROM
a_month() {
    "$cuplatch" rehearse "$1.ini" --garden "$1.garden.ini" --days 30 \
        --from "$2" >told
    grep -q '^0 alerts were told' told || wrong "$1 from $2: an alert" told
    grep -qE ' [1-9][0-9.]* h too (dry|wet)| 0\.[1-9] h too' told &&
        wrong "$1 from $2: a bed off its band" told
    grep -qE 'dry for [1-9]' told && wrong "$1 from $2: a pump ran dry" told
    return 0
}

clean() {
    "$cuplatch" check "$1.ini" >said || wrong "$1: not right" said
    grep "^$1.ini:" said >&2 && wrong "$1: a warning" said
    return 0
}

for shape in pot beds tray well line tunnel; do
    "$cuplatch" begin $shape --yes >/dev/null
    clean $shape
    for from in 2031-01-10 2031-04-10 2031-07-10 2031-10-10; do
        a_month $shape $from
    done
done

"$cuplatch" begin beds --yes -o wide --set tank.depth=1.4m \
    --set tank.diameter=500mm --set tank.gap=250mm \
    --set pump.flow=5L/min >/dev/null
clean wide
a_month wide 2031-07-10
grep -q '^depth = 1.4m' wide.garden.ini || wrong "depth" wide.garden.ini
grep -q '^gap = 250mm' wide.garden.ini || wrong "gap" wide.garden.ini
grep -q '^flow = 5L/min' wide.garden.ini || wrong "flow" wide.garden.ini
