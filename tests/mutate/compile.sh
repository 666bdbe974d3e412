#!/bin/sh
# Compiles one file of the core: compile.sh BUILD whole|board FILE SOURCE OBJECT,
# SOURCE being the file itself or a changed copy. What the standard leaves
# undefined stops a test.
set -eu
case $2 in
whole) uses=-DCUP_CHECKED ;;
board) uses='-DCUP_USES="plan.h" -DCUP_SMALL -DCUP_NARROW' ;;
esac
# shellcheck disable=SC2086
cc -std=c11 -O1 -fPIC $uses -Iinclude -I"$(dirname "$3")" -I"$1/board" \
    -fsanitize=undefined -fsanitize-undefined-trap-on-error -c -o "$5" "$4"
