#!/bin/sh
# Pages through the panel of the demo garden and shows each screen in a frame:
# its text is as the lines stream has it.
set -eu
line() {
    printf '{"t_ms": %d, "press": [%s]}\n' "$1" "$2"
}
{
    echo '{"t_ms": 0, "raw": {"kale_soil": 2050, "leek_soil": 1990}}'
    line 1000 ''
    line 2000 '"next"'
    line 3000 '"next"'
    line 4000 '"next", "next", "next", "next", "next", "next", "next", "next"'
    line 5000 '"next", "next", "next", "next", "next", "next", "next", "next"'
    line 6000 '"next", "next", "next", "next", "next", "next", "next", "next"'
    line 7000 '"next"'
    line 8000 '"more"'
    line 9000 '"keep"'
    line 40000 '"less"'
    line 75000 ''
} | cuplatch run examples/keeper/keeper.ini --port lines 2>/dev/null |
    sed -n 's/.*"top":"\([^"]*\)","below":"\([^"]*\)","lit":\([a-z]*\).*/\1|\2|\3/p' |
    sed 's/true/lit/; s/false/dark/' |
    while IFS='|' read -r top below lit; do
        printf '+----------------------+\n| %s |  %s\n| %s |\n' \
            "$top" "$lit" "$below"
    done
