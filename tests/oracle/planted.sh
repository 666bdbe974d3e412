#!/bin/sh
# Does the oracle notice? Makes each change of planted.txt (FILE|FROM|TO) by
# itself, and lets the oracle look at it by calls. planted.sh BUILD [LEAST]:
# fails when fewer than LEAST (28) are caught.
set -eu
cd "$(dirname "$0")/../.."
build=$1
least=${2:-28}
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
caught=0
all=0
while IFS= read -r line; do
    all=$((all + 1))
    printf '%s\n' "$line" | awk '{
        gsub(/\\\|/, "\001"); n = split($0, part, "|")
        for (i = 1; i <= n; i++) gsub(/\001/, "|", part[i])
        print part[1] > (dir "/file"); print part[2] > (dir "/from")
        print part[3] > (dir "/to") }' dir="$work"
    file=$(cat "$work/file")
    awk 'FILENAME == ARGV[1] { from = $0; next }
        FILENAME == ARGV[2] { to = $0; next }
        (at = index($0, from)) {
            $0 = substr($0, 1, at - 1) to substr($0, at + length(from))
            found++ }
        { print }
        END { exit found != 1 }' "$work/from" "$work/to" "$file" \
        >"$work/changed.c" || {
        echo "planted: not just once in $file: $(cat "$work/from")"
        exit 1
    }
    gcc -std=c11 -O1 -g -w -DCUP_CHECKED -Iinclude -I"$(dirname "$file")" \
        -c -o "$work/changed.o" "$work/changed.c"
    # shellcheck disable=SC2046
    gcc -o "$work/oracle" "$build"/tests/CMakeFiles/oracle.dir/oracle/*.o \
        "$work/changed.o" -Wl,--start-group \
        $(find "$build" -name '*.a') -Wl,--end-group \
        $(pkg-config --libs inih jansson) -lm
    if ORACLE_SITES=300 timeout 120 "$work/oracle" \
        by_calls_no_rule_is_broken >"$work/said" 2>&1; then
        echo "not noticed: $line"
    else
        caught=$((caught + 1))
    fi
done <tests/oracle/planted.txt
echo "planted: $caught of $all noticed"
[ "$caught" -ge "$least" ]
