#!/bin/sh
# Remakes docs/screenshots: each main command in a terminal window of its own,
# on a screen that is not shown, as a person would see it. What each shows is summed up
# in shown.txt beside them; `shots.sh check` makes nothing, and fails where a picture is
# older than what it shows.
set -eu
cd "$(dirname "$0")/.."
out=docs/screenshots
check=${1-}
mkdir -p build
: >build/shown.txt

# shows NAME: what a picture shows is read and summed up.
shows() {
    printf '%s %s\n' "$1" "$(cksum | tr ' ' -)" >>build/shown.txt
}

# made_by NAME FILE...: of one that shows a moment, it is what makes it.
made_by() {
    name=$1
    shift
    git ls-files -co --exclude-standard -- "$@" | sort | xargs cat | shows "$name"
}

# What they show that no text of a command says.
made_by live cli/look.c cli/look/live.c cli/look/frame.c
for page in page-now page-days page-phone; do
    made_by $page web/src docs/page_shots.mjs web/package-lock.json
done
made_by page-sites web/src docs/page_shots.mjs docs/sites.sh web/package-lock.json
for picture in week season year; do
    made_by $picture 'cli/picture/*.c' cli/plot.c examples/keeper
done
# prepare_NAME comes before a command, where one is given.
prepare() {
    if command -v "prepare_$1" >/dev/null; then "prepare_$1"; fi
}

# said NAME COMMAND...: what the command says, by itself.
said() {
    name=$1
    shift
    prepare "$name"
    (
        PATH=$PWD/${bin:-build/release}:$PATH
        export PATH
        sh -c "$*" 2>&1 || :
    ) | shows "$name"
}

rm -f build/display
[ "$check" = check ] || {
    Xvfb -displayfd 3 -screen 0 1280x800x24 3>build/display >/dev/null 2>&1 &
    screen=$!
    trap 'kill $screen 2>/dev/null' EXIT
}

# wait_for TEST...: until the shell test holds, ten seconds at most.
wait_for() {
    tries=100
    until test "$@"; do
        tries=$((tries - 1))
        [ "$tries" -gt 0 ] || { echo "gave up waiting: $*" >&2; exit 1; }
        sleep 0.1
    done
}
[ "$check" = check ] || {
    wait_for -s build/display
    DISPLAY=:$(cat build/display)
    export DISPLAY
}

# shot NAME COMMAND...: a picture of what the command prints.
shot() {
    said "$@"
    name=$1
    shift
    [ "$check" != check ] || return 0
    prepare "$name"
    rm -f build/shot.done
    printf '%s\n' "$*" >build/shot.sh
    xterm -geometry 139x42+0+0 -fa 'DejaVu Sans Mono' -fs 11 -bg '#10151a' \
        -fg '#dfe6e9' -b 12 -e sh -c '
            PATH=$PWD/${bin:-build/release}:$PATH
            printf "\033[?25l\033[1m$ %s\033[0m\n" "$(cat build/shot.sh)"
            . build/shot.sh
            touch build/shot.done
            sleep 30' &
    window=$!
    wait_for -e build/shot.done
    sleep 0.5
    import -window root "$out/$name.png"
    kill $window
}

shot check cuplatch check examples/keeper/kale.ini
shot errors cuplatch check tests/command/ten.ini
shot look cuplatch look examples/keeper/kale.ini \
    --log examples/keeper/kale-day.csv
prepare_calibrate() { cp examples/keeper/kale.ini build/garden.ini; }
shot calibrate "cuplatch calibrate build/garden.ini kale_soil --yes" \
    "--dry 2905,2911,2908,2903 --wet 1182,1179,1181,1184;" \
    "diff examples/keeper/kale.ini build/garden.ini"
# on a machine that is a folder
export bin=build/release/tests/standin CUPLATCH_STANDIN=/tmp/cup_shots
tests/linux/machine.sh $CUPLATCH_STANDIN
echo 4000 >$CUPLATCH_STANDIN/chip0.us11
shot pins "cuplatch pins;" \
    "(cd tests/linux; cuplatch pins bench.ini bench.pins.ini)"
rm -r $CUPLATCH_STANDIN
unset bin CUPLATCH_STANDIN
shot bake "cuplatch bake examples/board/board.ini -o build/plan.c &&" \
    "head -n 40 build/plan.c"
shot replay cuplatch replay examples/keeper/kale.ini \
    examples/keeper/kale-day.csv
prepare_rehearse() { rm -rf build/week; }
shot rehearse "cuplatch rehearse examples/keeper/keeper.ini" \
    "--garden examples/keeper/keeper.garden.ini --out build/week" \
    "--fault 'leak of header at 1d10h for 2h 2L/min'" \
    "--fault 'stuck of header_echo at 3d8h for 4h'" \
    "--fault 'dead of lift at 4d for 1d'"
[ "$check" = check ] || cp build/week/rehearsal.png "$out/week.png"
shot panel "sh docs/panel.sh"

# a history and what it tells, on a terminal and as a page
rm -f build/shots.db*
build/release/cuplatch rehearse examples/keeper/keeper.ini \
    --garden examples/keeper/keeper.garden.ini --days 7 \
    --fault "leak of header at 1d10h for 2h 2L/min" \
    --fault "stuck of header_echo at 3d8h for 4h" \
    --fault "dead of lift at 4d for 1d" --history build/shots.db >/dev/null
shot report "cuplatch report build/shots.db top_up goats"
build/release/cuplatch report build/shots.db -o build/shots.html
shows report-page <build/shots.html

sort -o build/shown.txt build/shown.txt
if [ "$check" = check ]; then
    older=$(diff $out/shown.txt build/shown.txt | awk '/^>/ {print $2}')
    [ -z "$older" ] || {
        echo "pictures: older than what they show: $(echo "$older" | paste -sd ' '); ./dev shots" >&2
        exit 1
    }
    for picture in "$out"/*.png; do
        grep -q "^$(basename "$picture" .png) " $out/shown.txt || {
            echo "pictures: nobody knows what $picture shows" >&2
            exit 1
        }
    done
    exit
fi
chromium --headless --no-sandbox --disable-gpu --hide-scrollbars \
    --window-size=1280,1500 --screenshot="$PWD/$out/report-page.png" \
    "file://$PWD/build/shots.html" 2>/dev/null

# All of a running site.
build/release/cuplatch run examples/keeper/keeper.ini --port sim \
    --garden examples/keeper/keeper.garden.ini --speed 600 \
    --from 2031-05-10T06:00:00 --socket build/shot.sock 2>/dev/null &
running=$!
wait_for -S build/shot.sock
until build/release/cuplatch ask pumps --socket build/shot.sock |
    grep -q '^tray_pump running' &&
    build/release/cuplatch ask pumps --socket build/shot.sock |
    grep -q '^lift running'; do
    sleep 0.2
done
rm -f build/shot.done
xterm -geometry 139x41+0+0 -fa 'DejaVu Sans Mono' -fs 11 -bg '#10151a' \
    -fg '#dfe6e9' -b 12 -e \
    build/release/cuplatch look --live --socket build/shot.sock &
window=$!
sleep 2
import -window root "$out/live.png"
kill $window $running

# How the same picture looks of a season with troubles, and of a year.
rehearse() {
    name=$1
    shift
    build/release/cuplatch rehearse examples/keeper/keeper.ini \
        --garden examples/keeper/keeper.garden.ini --out build/shots-$name \
        "$@" >/dev/null
    cp "build/shots-$name/rehearsal.png" "$out/$name.png"
    rm -r "build/shots-$name"
}
rehearse season --days 60 --seed 2 --from 2031-06-25 \
    --fault 'leak of cistern at 5d for 4d 1L/min' \
    --fault 'lost of kale_soil at 20d for 6d' \
    --fault 'drift of header_echo at 30d for 9d'
rehearse year --days 365 --seed 2

# The page: two days of the garden as they were kept, and a third that runs, with
# little water in the cistern and a tray that somebody switched off.
rm -rf build/shots-page
mkdir -p build/shots-page
build/release/cuplatch rehearse examples/keeper/keeper.ini \
    --garden examples/keeper/keeper.garden.ini --days 2 \
    --fault "blocked of lift at 1d8h for 10h" \
    --history build/shots-page/history.db >/dev/null
cat >build/shots-page/serve.ini <<END
[garden]
is = site
socket = $PWD/build/shots-page/garden.sock

[history]
file = $PWD/build/shots-page/history.db

[page]
listen = 127.0.0.1:8468
keys = $PWD/build/shots-page/keys
files = $PWD/build/page
END
key=$(build/release/cuplatch-serve build/shots-page/serve.ini --new-key keeper 2>/dev/null)
sed '0,/^holds = 70%/s//holds = 9%/; s/^holds = 55%/holds = 33%/' \
    examples/keeper/keeper.garden.ini >build/shots-page/garden.ini
build/release/cuplatch run examples/keeper/keeper.ini --port sim \
    --garden build/shots-page/garden.ini --speed 120 \
    --from 2031-05-12T04:00:00 --socket build/shots-page/garden.sock 2>/dev/null &
running=$!
wait_for -S build/shots-page/garden.sock
build/release/cuplatch-serve build/shots-page/serve.ini 2>build/shots-page/log &
serving=$!
wait_for -s build/shots-page/log
build/release/cuplatch tell --socket build/shots-page/garden.sock tray_pump off >/dev/null
sleep 25
node docs/page_shots.mjs http://127.0.0.1:8468 "$key" "$out"
kill $serving $running
wait $serving $running || true

docs/sites.sh "$out"
cp build/shown.txt "$out/shown.txt"
