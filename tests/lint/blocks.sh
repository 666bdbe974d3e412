#!/bin/sh
# Each block of uses.h can be left out by itself: the two files compile without
# it, without a warning, and need nothing that is not there. blocks.sh [BLOCK]
set -eu
cd "$(dirname "$0")/../.."
to=build/blocks
blocks=$(grep -oE '^    X\([A-Z_]+\)' include/cuplatch/uses.h | tr -d ' X()')

# What cannot be without a block.
rest_on() {
    case $1 in
    VALUES) echo "VALUES AIR CHECKS FLOATS LAMPS MEANS PRESSURES SETTINGS SEVERAL SLACK SPANS SPEEDS" ;;
    QUIET) echo "QUIET SLACK" ;;
    PACES) echo "PACES FRAMES QUIET SEVERAL SLACK SOURCES SUPPLIES" ;;
    *) echo "$1" ;;
    esac
}

leave_out() {
    out=" $(rest_on "$1") "
    for block in $blocks; do
        case $out in *" $block "*) built=0 ;; *) built=1 ;; esac
        echo "#define CUP_USES_$block $built"
    done >"$to/$1.h"
    echo "#define CUP_MEAN_MOST 31" >>"$to/$1.h"
    cc -std=c11 -Wall -Wextra -Wconversion -Werror -O0 -fno-pie -I$to \
        -DCUP_USES="\"$1.h\"" -c -o "$to/$1.o" $to/cuplatch.c &&
        tests/lint/freestanding.sh "$to/$1.o" >/dev/null || {
        echo "without the block $1 the core does not build" >&2
        return 1
    }
}

if [ $# -eq 1 ]; then
    leave_out "$1"
    exit
fi
mkdir -p $to
cmake/twofile.sh $to
echo "$blocks" | xargs -P "${CUPLATCH_JOBS:-$(nproc)}" -n 1 "$0"
echo "blocks: each of $(echo "$blocks" | wc -l) can be left out"
