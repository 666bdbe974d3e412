#!/bin/sh
# A picture shows what really ran, and no more: in what makes pictures nobody types a
# sentence, or has a controller that is none say one.
set -eu
bad=0
for file in docs/*.sh docs/*.mjs; do
    # five words in a row between quotes or in an echo, comments left out
    sed 's:^ *\(#\|//\).*::' "$file" |
        grep -nE "[\"'][^\"']*([A-Za-z]+,? ){4}[A-Za-z]+|(^|[^_])echo +[A-Za-z]" | sed "s|^|$file:|" |
        grep -v '>&2' && bad=1
    grep -HnE 'tests/page/garden|puppet|standing' "$file" && bad=1
done
[ "$bad" -eq 0 ] || {
    echo "pictures: no sentence in them is typed" >&2
    exit 1
}
