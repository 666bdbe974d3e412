#!/bin/sh
# The core as two files compiles by itself, without a warning, and a site of
# our own runs with nothing else.
set -eu
cd "$(dirname "$0")/../.."
to=build/twofile
cmake/twofile.sh $to
build/release/cuplatch bake examples/board/board.ini -o $to/plan.c
sed 's|"cuplatch/port.h"|"cuplatch.h"|' firmware/vectors/vectors.c \
    >$to/vectors.c
cc -std=c11 -Wall -Wextra -Wconversion -Wshadow -Werror -O2 \
    -ffunction-sections -Wl,--gc-sections -I$to -Ifirmware/vectors \
    -o $to/site $to/vectors.c $to/plan.c $to/cuplatch.c firmware/vectors/host.c
build/release/tests/record examples/board/board.ini \
    examples/board/board.garden.ini 3000 | $to/site
echo "twofile: two files are enough"
