#!/bin/bash
# What README and how-to say to type is typed, page by page, in a folder of its own:
# typed.sh BIN STANDIN ROOT. Not here: install.md (tests/package/inside.sh) and the
# pages of the shapes (pages.sh); words of ./dev are only looked up.
set -euo pipefail
bin=$1
standin=$2
root=$3
# The broker that afar.md speaks of.
broker=$(PATH=$PATH:/usr/sbin command -v mosquitto) || {
    echo "left out: there is no mosquitto on this machine"
    [ -z "${CUPLATCH_NOTHING_LEFT_OUT-}" ] || exit 1
    exit 77
}
# A page at a time, in a world of its own: whoever a page calls by name is called
# there, and nobody else; and what it left running ends with it.
if [ $# -eq 3 ]; then
    world=()
    [ "$(id -u)" -ne 0 ] || world=(unshare --pid --fork --kill-child --mount-proc)
    typed=0
    for page in "$root"/README.md "$root"/docs/howto/*.md; do
        case $page in
        */howto/README.md | */shape-*.md | */install.md) continue ;;
        esac
        said=$("${world[@]}" "$0" "$@" "$page") || {
            echo "$said"
            exit 1
        }
        typed=$((typed + said))
    done
    echo "typed: $typed lines"
    [ "$typed" -ge 45 ]
    exit
fi
page=$4
scratch=$(mktemp -d)
running=()
# What ends may write until it has ended.
trap 'kill "${running[@]}" 2>/dev/null || :; wait "${running[@]}" || :; rm -rf "$scratch"' EXIT
mkdir "$scratch/bin"

# The command, with what this place needs: its own socket, one screen instead of a
# live one, few samples, yes to what it asks.
cat >"$scratch/bin/cuplatch" <<END
#!/bin/bash
word=\$1
case "\$word \$*" in
"ask "* | "tell "* | "run "*--port\ sim* | "run "*--port\ linux*) set -- "\$@" --socket "$scratch/socket" ;;
"look "*--live*) set -- "\$@" --socket "$scratch/socket" --once ;;
"look "*--pins*) exec timeout 2 "\$CUPLATCH" "\$@" ;;
"calibrate "*--time*) set -- "\$@" --socket "$scratch/socket" --yes ;;
"calibrate "*--pins*) set -- "\$@" --samples 3 --yes ;;
esac
exec -a cuplatch "\$CUPLATCH" "\$@"
END
cat >"$scratch/bin/cuplatch-serve" <<END
#!/bin/sh
shift
exec "$bin/cuplatch-serve" "$scratch/serve.ini" "\$@" --trust-clock
END
chmod +x "$scratch"/bin/*
PATH=$scratch/bin:$PATH
export CUPLATCH=$bin/cuplatch

fail() {
    echo "typed: $*"
    exit 1
}

# until_true WHAT COMMAND...
until_true() {
    local tries=300 what=$1
    shift
    until "$@" >/dev/null 2>&1; do
        tries=$((tries - 1))
        [ "$tries" -gt 0 ] || fail "waited for $what"
        sleep 0.1
    done
}

# behind COMMAND...: goes on while the page does.
behind() {
    "$@" </dev/null >>"$scratch/.behind" 2>&1 &
    running+=($!)
}

garden_runs() {
    rm -f "$scratch/socket"
    behind cuplatch run garden.ini --port sim --garden garden.garden.ini \
        --speed 150 --from 2031-07-01
    until_true "the garden's socket" [ -S "$scratch/socket" ]
}

# What a page's file of cuplatch-serve has: a site, another, a broker.
serve_config() {
    cat >"$scratch/serve.ini" <<END
[keeper]
is = site
socket = $scratch/socket

[plot]
is = site
socket = $scratch/plot.sock

[history]
file = $scratch/history.db

[page]
listen = 127.0.0.1:8473
keys = $scratch/keys

[broker]
url = mqtt://127.0.0.1:18473
base = garden
words = yes

[modem]
device = $scratch/modem
people = $scratch/people
END
    printf '[mara]\nnumber = +990100200300\nmay = stop\n' >"$scratch/people"
    chmod 600 "$scratch/people"
}

served() {
    sed -i 's/^\[site\]/[site]\nid = keeper/' garden.ini
    garden_runs
    sed 's/^id = keeper/id = plot-17/' garden.ini >plot.ini
    behind "$CUPLATCH" run plot.ini --port sim --garden garden.garden.ini \
        --socket "$scratch/plot.sock" --from 2031-07-01
    printf 'listener 18473 127.0.0.1\nallow_anonymous true\n' >broker.conf
    behind "$broker" -c broker.conf
    serve_config
    sed -i '/^\[modem\]/,$d' "$scratch/serve.ini"
    behind cuplatch-serve FILE
    for site in keeper plot-17; do
        until_true "$site at the broker" cuplatch-serve FILE --ask $site levels
    done
    serve_config
}

# A machine that is a folder, with the pins that the page shows.
machine() {
    export CUPLATCH=$standin/cuplatch CUPLATCH_STANDIN=$scratch/machine
    "$root/tests/linux/machine.sh" "$scratch/machine"
    awk '/^    \[relay\]/ {on = 1} on && !/^    |^$/ {exit} on {sub(/^    /, ""); print}' \
        "$root/docs/howto/linux.md" >garden.pins.ini
    sed '/^\[yard_air\]/,/^every/d; /^supply/d; /^warm_up/d; s/kale_soil/soil/; s/water/lift/' \
        "$root/tests/linux/bench.ini" >garden.ini
}

scene() {
    cp -r "$root/examples" .
    cp examples/keeper/keeper.ini garden.ini
    cp examples/keeper/keeper.garden.ini garden.garden.ini
    export CUPLATCH=$bin/cuplatch
    case $1 in
    README | linux) machine ;;
    calibrate) cp examples/keeper/kale.ini garden.ini ;;
    live | duties) garden_runs ;;
    page) serve_config ;;
    afar | many) served ;;
    history)
        serve_config
        cuplatch rehearse garden.ini --garden garden.garden.ini --days 1 --out raw >/dev/null
        cp raw/raw.csv raw-20310402-000000.csv
        ;;
    board)
        "$root/cmake/twofile.sh" "$scratch/twofile"
        cp "$scratch"/twofile/cuplatch.[ch] .
        ;;
    esac
}

# What is asked for on the way, for a line.
answers() {
    case $1 in
    *"begin") echo beds; yes "" ;;
    *"calibrate garden.ini kale_soil") printf '2905 2911 2908 2903\n\n1182 1179 1181 1184\n\ny\n' ;;
    *"calibrate garden.ini soil --pins"*)
        echo
        until_true "the wet end" grep -q '3 of 3' "$scratch/.said"
        echo 1310 >"$scratch/machine/sys/bus/iio/devices/iio:device0/in_voltage0_raw"
        yes y
        ;;
    *) yes "" ;;
    esac
}

# type LINE: 0 when it did what it is for.
type_it() {
    case $1 in
    "./dev "*)
        word=${1#./dev }
        word=${word%% *}
        grep -q "^\"$word " "$root/dev"
        ;;
    *"--board /dev/ttyUSB0"*) grep -q -- '--board' "$root/tests/linux/test_machine.c" ;;
    *"--port lines") echo '{"t_ms": 0}' | sh -c "$1" ;;
    "cuplatch run "*"--port "[sl]i*)
        rm -f "$scratch/socket"
        behind sh -c "exec $1"
        until_true "the socket of: $1" [ -S "$scratch/socket" ]
        ;;
    "cuplatch-serve /etc/cuplatch/serve.ini") behind sh -c "exec $1" ;;
    "build/release/"*) PATH=$bin:$PATH sh -c "${1#build/release/}" ;;
    # what else moves the tank is switched off, as the page says
    *"calibrate garden.ini --time"*)
        for pump in bed_pump trough_pump tray_pump lift; do
            cuplatch tell $pump off
        done
        cuplatch tell lift auto
        sh -c "$1"
        ;;
    # days by the clock of this machine, of a history that ends in another year
    *"--from yesterday"* | *'--from "last week"'*)
        sh -c "$1" || grep -q "nothing of these days" "$scratch/.said"
        ;;
    "cuplatch look "*--pins*) sh -c "$1" || [ $? -eq 124 ] ;;
    *) sh -c "$1" < <(answers "$1" 2>/dev/null) ;;
    esac
}

awk '/^    (\$ |cuplatch|\.\/dev |build\/|cc |cp |pkill )/ || more {
        sub(/^ +(\$ )?/, "")
        more = /\\$|\|$/
        sub(/ *\\$/, "")
        sub(/  +#.*/, "")
        printf "%s%s", $0, more ? " " : "\n"
    }' "$page" >"$scratch/.lines"
mkdir "$scratch/here"
cd "$scratch/here"
[ ! -s "$scratch/.lines" ] || scene "$(basename "$page" .md)"
typed=0
while read -r line <&3; do
    type_it "$line" >"$scratch/.said" 2>&1 || {
        cat "$scratch/.said"
        fail "$(basename "$page"): it failed: $line"
    }
    typed=$((typed + 1))
done 3<"$scratch/.lines"
echo "$typed"
