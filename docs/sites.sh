#!/bin/sh
# A picture of many gardens, each run by a controller of its own, half of them for days
# before it is taken; in some of them something is wrong with what is physically there.
# sites.sh FOLDER, for the picture.
set -eu
cd "$(dirname "$0")/.."
to=build/shots-sites
rm -rf $to
mkdir -p $to
running=""
trap 'kill $running 2>/dev/null || :; wait || :' EXIT

# plot NAME SHAPE [FAULT...]: a garden of that shape, with faults in it.
plots=0
plot() {
    plots=$((plots + 1))
    name=$1
    at=$to/plot$plots
    case $2 in
    keeper)
        cp examples/keeper/keeper.ini $at.ini
        cp examples/keeper/keeper.garden.ini $at.garden.ini
        ;;
    *) build/release/cuplatch begin "$2" --yes -o $at.ini >/dev/null ;;
    esac
    sed -i '/^name = /d' $at.ini
    sed -i "s/^\\[site\\]/[site]\\nname = $name\\nid = plot-$plots/" $at.ini
    shift 2
    faults=0
    for fault in "$@"; do
        faults=$((faults + 1))
        printf '\n[fault_%d]\nis = fault\nwhat = %s\n' $faults "$fault" >>$at.garden.ini
    done
    build/release/cuplatch run $at.ini --port sim --garden $at.garden.ini --speed 3600 \
        --from 2031-06-10 --socket $at.sock 2>$at.log &
    running="$running $!"
    printf '[plot_%d]\nis = site\nsocket = %s\n\n' $plots "$PWD/$at.sock" >>$to/serve.ini
}

plot "Keeper's Garden" keeper
plot "Lower terrace" keeper "dead of lift at 1h for 30d" "lost of kale_soil at 3h for 30d"
plot "Upper terrace" beds
plot "School beds" beds
plot "Seedling shed" tray
plot "Glass house" tunnel
plot "Hop rows" line
plot "Berry lane" line "blocked of pump at 1h for 30d"
plot "Mill pond" well
plot "Old quarry" well
plot "Herb walls" pot
plot "Nut walk" beds
gone=$!
cat >>$to/serve.ini <<END
[page]
listen = 127.0.0.1:8467
keys = $PWD/$to/keys
files = $PWD/build/page
END
key=$(build/release/cuplatch-serve $to/serve.ini --new-key keeper 2>/dev/null)
build/release/cuplatch-serve $to/serve.ini 2>$to/log &
running="$running $!"
sleep 45
kill $gone
sleep 3
node docs/page_shots.mjs http://127.0.0.1:8467 "$key" "$1" sites
