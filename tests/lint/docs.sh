#!/bin/sh
# Holds docs to the code, both ways: keys of the site file, codes of reasons,
# public functions, commands and their options; the version to the newest change;
# and every link leads to a file. docs.sh BUILD has the programs.
set -eu
bin=$1
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
sed -n 's/^## cuplatch \([a-z]*\)$/\1/p' $ref/commands.md >"$scratch/docs"
same "command"

# Options, a command at a time, as its --help tells them.
# part NAME: what commands.md says of it
part() {
    awk -v title="## $1" '/^## / {on = $0 == title} on' $ref/commands.md
}
options() {
    grep -oE '(^|[ `])--[a-z-]+' | tr -d ' `' | grep -vxE -- '--(help|usage)' |
        sort -u || true
}
commands=$(cat "$scratch/docs")
for command in $commands; do
    "$bin/cuplatch" "$command" --help | grep -E '^  (-.,|   ) --' |
        sed 's/  [a-zA-Z].*//' | options >"$scratch/code"
    part "cuplatch $command" | grep '^| `-' | cut -d '|' -f 2 | options >"$scratch/docs"
    [ ! -s "$scratch/code" ] && [ ! -s "$scratch/docs" ] || same "option of $command"
done
"$bin/cuplatch-serve" --help | grep -E '^  (-.,|   ) --' | sed 's/  [a-zA-Z].*//' |
    options >"$scratch/code"
part cuplatch-serve | grep '^| `-' | cut -d '|' -f 2 | options >"$scratch/docs"
same "option of cuplatch-serve"

# Each test that the hazard table names is there.
grep -E '^\|' docs/safety.md | grep -oE '[a-z]+ [a-z0-9]+_[a-z0-9_]+ \|$' |
    while read -r program name _; do
        grep -qE "(\(|^ +)$name\b" $(ls tests/*/"test_$program.c") || {
            echo "docs/safety.md: no such test: $program $name"
            exit 1
        }
    done || bad=1

version=$(cmake/version.sh)
grep -m 1 '^## ' CHANGELOG.md | grep -q "^## $version (" || {
    echo "CHANGELOG.md: its newest part is not of $version, as base.h says"
    bad=1
}

for file in README.md CONTRIBUTING.md CHANGELOG.md $(git ls-files -co --exclude-standard -- 'docs/*.md'); do
    dir=$(dirname "$file")
    for link in $(grep -oE '\]\([^)#]+\)' "$file" | tr -d '])(' | grep -v '^http'); do
        [ -e "$dir/$link" ] || { echo "$file: no such file: $link"; bad=1; }
    done
done
exit $bad
