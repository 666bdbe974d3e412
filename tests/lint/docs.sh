#!/bin/sh
# Holds docs to the code, both ways: keys of the site file, codes of reasons,
# public functions and commands; and every link leads to a file.
set -eu
scratch=$(mktemp -d)
trap 'rm -rf "$scratch"' EXIT
bad=0

# same WHAT: two lists, one name a line, in $scratch/code and $scratch/docs.
same() {
    sort -u -o "$scratch/code" "$scratch/code"
    sort -u -o "$scratch/docs" "$scratch/docs"
    [ -s "$scratch/code" ] || { echo "no $1 found in the code"; bad=1; }
    comm -3 "$scratch/code" "$scratch/docs" | sed 's/^\t\(.*\)/\1 (docs only)/
        /docs only/!s/$/ (code only)/' >"$scratch/odd"
    [ -s "$scratch/odd" ] || return 0
    sed "s/^/$1: /" "$scratch/odd"
    bad=1
}

ref=docs/reference
grep -oE '(TIME|SHORT_TIME|LENGTH|PERCENT|FLOW|COUNTED|OTHER|ONE_OF|A_THING|WORDS)\("[a-z_]+"' \
    sitefile/read/schema.c | grep -oE '"[a-z_]+"' | tr -d '"' >"$scratch/code"
grep -E '^\| \**`' $ref/site-file.md | cut -d'|' -f2 | grep -oE '`[a-z_]+`' |
    tr -d '`' | grep -vxE 'mm|cm|m|ms|s|h|d' >"$scratch/docs"
same "key"

tr -s '\n ' ' ' <garden/read.c |
    grep -oE 'section_(quantity|change|number|choice|entry)\( ?section, "[a-z]+"' |
    grep -oE '"[a-z]+"' | tr -d '"' >"$scratch/code"
grep -E '^\| \**`' $ref/garden-file.md | cut -d'|' -f2 | grep -oE '`[a-z]+`' |
    tr -d '`' >"$scratch/docs"
same "key of a garden"

printf '#include "cuplatch/reason.h"\n#define X(name, code, ...) @ code @\nCUP_REASONS(X)\n' |
    gcc -E -P -Iinclude -x c - | grep -oE '@ [^@]+ @' | sed 's/@//g; s/[" ]//g' |
    awk 'NR > 1 {print $1, NR - 1}' >"$scratch/code"
grep -oE '^\| `[a-z-]+` \| [0-9]+ \|' $ref/reasons.md | tr -d '`|' |
    awk '{print $1, $2}' >"$scratch/docs"
same "reason"

printf '#include "cuplatch/sensor.h"\n#define X(name, code, ...) @ code @\nCUP_FORMS(X)\n' |
    gcc -E -P -Iinclude -x c - | grep -oE '@ [^@]+ @' | sed 's/@//g; s/[" ]//g' \
    >"$scratch/code"
sed -n '/^| form | raw/,/^$/p' $ref/site-file.md | grep -oE '^\| [a-z][a-z0-9-]* ' |
    tr -d '| ' | grep -vx form >"$scratch/docs"
same "form"

cat include/cuplatch/*.h | tr '\n' ' ' | sed 's/static inline[^{]*{[^}]*}//g; s/static CUP_[A-Z]*[^{]*{[^}]*}//g
    s:/\*[^*]*\*\+\([^/*][^*]*\*\+\)*/::g' | grep -oE '\bcup_[a-z0-9_]+\([^)]*\)[^;{]*;' |
    grep -oE '^cup_[a-z0-9_]+' | grep -vxE 'cup_broken' >"$scratch/code"
grep -oE '`cup_[a-z0-9_]+\(\)`' $ref/api.md | grep -oE 'cup_[a-z0-9_]+' |
    grep -vxE 'cup_broken' >"$scratch/docs"
same "function"

grep -oE '\{"[a-z]+", [a-z]+_main' cli/main.c | grep -oE '"[a-z]+"' | tr -d '"' \
    >"$scratch/code"
grep -oE '^\| `cuplatch [a-z]+ ' $ref/commands.md | cut -d' ' -f3 >"$scratch/docs"
same "command"

# Each test that the hazard table names is there.
grep -E '^\|' docs/safety.md | grep -oE '[a-z]+ [a-z0-9]+_[a-z0-9_]+ \|$' |
    while read -r program name _; do
        grep -qE "\($name\b" $(ls tests/*/"test_$program.c") || {
            echo "docs/safety.md: no such test: $program $name"
            exit 1
        }
    done || bad=1

for file in README.md CONTRIBUTING.md $(git ls-files -co --exclude-standard -- 'docs/*.md'); do
    dir=$(dirname "$file")
    for link in $(grep -oE '\]\([^)#]+\)' "$file" | tr -d '])(' | grep -v '^http'); do
        [ -e "$dir/$link" ] || { echo "$file: no such file: $link"; bad=1; }
    done
done
exit $bad
