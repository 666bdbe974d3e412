#!/bin/sh
# Remakes docs/screenshots: each main command in a terminal window of its own,
# on a screen that is not shown, as a person would see it.
set -eu
cd "$(dirname "$0")/.."
out=docs/screenshots
export DISPLAY=:77
Xvfb "$DISPLAY" -screen 0 1280x800x24 >/dev/null 2>&1 &
screen=$!
trap 'kill $screen 2>/dev/null' EXIT
while ! xdpyinfo >/dev/null 2>&1; do sleep 0.1; done

# shot NAME COMMAND...: a picture of what the command prints.
shot() {
    name=$1
    shift
    rm -f build/shot.done
    xterm -geometry 139x42+0+0 -fa 'DejaVu Sans Mono' -fs 11 -bg '#10151a' \
        -fg '#dfe6e9' -b 12 -e sh -c "
            PATH=\$PWD/build/release:\$PATH
            printf '\033[?25l\033[1m\$ %s\033[0m\n' \"$*\"; $*
            touch build/shot.done; sleep 30" &
    window=$!
    while [ ! -e build/shot.done ]; do sleep 0.1; done
    sleep 0.5
    import -window root "$out/$name.png"
    kill $window
}

shot check cuplatch check examples/keeper/kale.ini
shot errors cuplatch check tests/command/ten.ini
shot replay cuplatch replay examples/keeper/kale.ini \
    examples/keeper/kale-day.csv
