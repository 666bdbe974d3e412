#!/bin/sh
# Every use that a header shows compiles, in a program that has what the use
# takes for granted.
set -eu
cd "$(dirname "$0")/../.."
mkdir -p build/lint
count=0
for header in include/cuplatch/*.h; do
    name=$(basename "$header" .h)
    uses=$(sed -n '/^ \* In use:/,/\*\//p' "$header" |
        sed -n 's/ \*\/$//; s/^ \*     //p')
    [ -n "$uses" ] || continue
    count=$((count + 1))
    {
        cat tests/lint/granted.h
        printf '#include "cuplatch/%s.h"\n' "$name"
        printf 'void use(const struct cup_site *site, struct cup_port *port)\n'
        printf '{\n%s\n}\n' "$uses"
    } >"build/lint/use_$name.c"
    gcc -std=c11 -Iinclude -Wall -Wextra -Werror -Wno-unused -fsyntax-only \
        "build/lint/use_$name.c"
done
[ "$count" -ge 20 ] || {
    echo "uses: only $count headers show one"
    exit 1
}
echo "uses: what $count headers show compiles"
