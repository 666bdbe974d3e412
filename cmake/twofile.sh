#!/bin/sh
# The core and the loop of a site as two files, cuplatch.h and cuplatch.c, that
# go into any project: twofile.sh DIRECTORY
set -eu
cd "$(dirname "$0")/.."
to=$1
mkdir -p "$to"
headers="$(ls include/cuplatch/*.h)"
by="$(sed -n '/^Copyright/p' LICENSE)"
licence() {
    echo "/* SPDX-License-Identifier: MIT"
    echo " * $by */"
}
{
    licence
    echo "/* Cup Latch $(cmake/version.sh), all of its headers in one."
    echo " * Made by ./dev twofile; see docs/howto/board.md. */"
    # shellcheck disable=SC2086
    awk -f cmake/twofile.awk $headers
} >"$to/cuplatch.h"
{
    licence
    echo "/* The core of Cup Latch and the loop of a site, in one file. Made by"
    echo " * ./dev twofile; compile it beside your own: cc -c cuplatch.c */"
    echo '#include "cuplatch.h"'
    # shellcheck disable=SC2046,SC2086
    awk -v seen="$(echo $headers)" -f cmake/twofile.awk $(ls src/*/*.c | grep -v src/loop/)
    echo '/* The loop: leave it out, with -DCUP_NO_LOOP, where there is no port. */'
    echo '#ifndef CUP_NO_LOOP'
    # shellcheck disable=SC2086
    awk -v seen="$(echo $headers src/site/*.h)" -f cmake/twofile.awk src/loop/*.c
    echo '#endif'
} >"$to/cuplatch.c"
