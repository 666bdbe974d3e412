#!/bin/sh
# Shows that the core needs nothing but a few string functions and, for its
# loop, the port: LIBRARY's undefined symbols are its own, or on these lists.
set -eu
port='cup_port_now_ms cup_port_sample cup_port_drive cup_port_tell cup_port_feed
    cup_port_supply cup_port_bytes cup_port_move cup_port_light cup_port_closed'
known='memchr memcmp memcpy memset strchr strcmp strlen strncmp strspn'
defined=$(nm --defined-only "$1" | awk 'NF == 3 {print $3}' | sort -u)
wanted=$(nm --undefined-only "$1" | awk '$1 == "U" {print $2}' | sort -u)
for symbol in $wanted; do
    echo $known $port $defined | tr ' ' '\n' | grep -qx "$symbol" || {
        echo "the core needs $symbol" >&2
        exit 1
    }
done
# Nothing outside our prefix is visible to others.
foreign=$(nm --defined-only --extern-only "$1" | awk 'NF == 3 {print $3}' |
    grep -vE '^cup_' || true)
[ -z "$foreign" ] || { echo "symbols without our prefix: $foreign" >&2; exit 1; }
# No global that changes: nothing in .data or .bss.
changing=$(nm "$1" | awk 'NF == 3 && $2 ~ /^[bBdD]$/ {print $3}')
[ -z "$changing" ] || { echo "globals that change: $changing" >&2; exit 1; }
echo "freestanding: the core needs only $(echo $wanted | tr ' ' '\n' |
    grep -xE "$(echo $known | tr ' ' '|')" | tr '\n' ' ')"
