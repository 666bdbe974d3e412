#!/bin/sh
# Talks to a board under emulation: what it answers on its console, what it knows
# again after a reset, and whether its sensors can be looked at from here.
# talk.sh NAME QEMU MACHINE IMAGE COMMAND
set -eu
name=$1
at=$(mktemp -d)
out=$at/out
trap 'rm -rf "$at"' EXIT
mkfifo "$at/in" "$at/machine.in" "$at/machine.out"
# Its time goes by what it executes, so that a busy machine stalls no watchdog.
# The machine is reset over pipes of its own, so that nothing mixes with what
# the board says.
timeout 240 "$2" -M "$3" -icount shift=6 -display none \
    -serial stdio -chardev pipe,id=machine,path="$at/machine" \
    -mon chardev=machine -kernel "$4" \
    <"$at/in" >"$out" 2>/dev/null &
exec 3>"$at/in" 4<>"$at/machine.in"

# awaits TEXT: until the board has said it, 30 s at most.
awaits() {
    tries=0
    until grep -q "$1" "$out"; do
        tries=$((tries + 1))
        [ $tries -lt 300 ] || {
            echo "  the board did not say \"$1\":"
            cat "$out"
            exit 1
        }
        sleep 0.1
    done
}

awaits "site boot: the controller started"
printf 'ask levels\r' >&3
awaits "cistern held: no-answer"
printf 'lift hand 1m\r' >&3
awaits "lift block: cistern is not known yet"
printf 'kale.start 51%%\r' >&3
awaits "no duty may change that"
printf 'site hold\r' >&3
awaits "site mode: the site is on hold"
printf 'system_reset\n' >&4
awaits "site setting: the journal was read back"
printf 'ask pumps\r' >&3
awaits "lift blocked"
printf 'quit\n' >&4
wait

# The command at the other end of the board's own line.
timeout 60 "$2" -M "$3" -icount shift=6 -display none -monitor none \
    -serial pty -kernel "$4" >"$at/line" 2>&1 &
board=$!
tries=0
until line=$(grep -o '/dev/pts/[0-9]*' "$at/line"); do
    tries=$((tries + 1))
    [ $tries -lt 100 ] || exit 1
    sleep 0.1
done
timeout 30 "$5" look examples/board/board.ini --board "$line" --json \
    2>/dev/null | head -n 40 >"$at/looked" || true
kill $board
grep -q '"sensor":"kale_soil",.*"raw":0,' "$at/looked" &&
    grep -q '"sensor":"tray_float","value":[01],' "$at/looked" || {
    echo "  look --board heard:"
    cat "$at/looked"
    exit 1
}
echo "  $name: console, guards and journal answer; look hears its sensors"
