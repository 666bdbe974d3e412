#!/bin/sh
# One change: makes it, builds the core anew, runs tests until one fails.
# one.sh BUILD CHANGE
set -eu
to=$1
IFS='	' read -r file line column length new <<END
$2
END
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
awk -v at="$line" -v column="$column" -v size="$length" -v new="$new" '
    NR == at { $0 = substr($0, 1, column - 1) new substr($0, column + size) }
    { print }' "$file" >"$work/changed.c"
says=$(sed -n "${line}s/^ *//p" "$work/changed.c")
what="$file:$line: $says"
if grep -qxF "$file: $says" "$to/judged"; then
    printf '%s\n' "$what" >>"$to/same"
    exit 0
fi
name=$(basename "$file").o
if ! tests/mutate/compile.sh "$to" whole "$file" "$work/changed.c" \
    "$work/changed.o" 2>/dev/null ||
    ! tests/mutate/compile.sh "$to" board "$file" "$work/changed.c" \
        "$work/$name" 2>/dev/null; then
    printf '%s\n' "$what" >>"$to/broken"
    exit 0
fi

# A board plays what the unchanged one plays.
if ! cmp -s "$work/$name" "$to/board/$name"; then
    others=$(find "$to/board" -name '*.o' | grep -v "/$name")
    # shellcheck disable=SC2086
    cc -o "$work/uneven" $others "$work/$name"
    if [ "$(timeout 20 "$work/uneven" 2>&1 || true)" != "$(cat "$to/board/sum")" ]
    then
        printf '%s\n' "board $what" >>"$to/caught"
        exit 0
    fi
fi
if [ -e "$to/narrow/$name" ]; then
    tests/mutate/compile.sh "$to" narrow "$file" "$work/changed.c" \
        "$work/narrow.o" 2>/dev/null
    others=$(find "$to/narrow" -name '*.o' | grep -v "/$name")
    # shellcheck disable=SC2086
    cc -o "$work/narrow" $others "$work/narrow.o"
    if ! timeout 20 "$work/narrow" --to-first-failure >/dev/null 2>&1; then
        printf '%s\n' "narrow $what" >>"$to/caught"
        exit 0
    fi
fi
if cmp -s "$work/changed.o" "$to/whole/$name"; then
    printf '%s\n' "$what" >>"$to/survivors"
    exit 0
fi
objects=$(find "$to/CMakeFiles/cuplatch_core.dir" -name '*.o' |
    grep -v "/$file.o")
# shellcheck disable=SC2086
cc -shared -o "$work/libcuplatch.so" $objects "$work/changed.o"
# the quickest first: most changes fall in the first tenth of a second
for test in act pump measure frames decide seldom decode tank duty curve watch \
    time calm console say limits plan window sensors proof harmless faults promises site \
    journal; do
    case=--to-first-failure
    [ $test != promises ] || case="$case promises_hold_on_random_sites"
    # shellcheck disable=SC2086
    if ! LD_LIBRARY_PATH=$work timeout 20 "$to/tests/$test" $case \
        >/dev/null 2>&1; then
        printf '%s\n' "$test $what" >>"$to/caught"
        exit 0
    fi
done
printf '%s\n' "$what" >>"$to/survivors"
