#!/bin/sh
# Compiles one file: compile.sh BUILD whole|board|narrow FILE SOURCE OBJECT,
# SOURCE being the file itself or a changed copy. What the standard leaves
# undefined stops a test.
set -eu
case $2 in
whole) uses=-DCUP_CHECKED ;;
narrow) uses='-DCUP_USES="narrow.h" -DCUP_NARROW' ;;
board) uses='-DCUP_USES="plan.h" -DCUP_SMALL -DCUP_NARROW' ;;
esac
# shellcheck disable=SC2086
cc -std=c11 -O1 -fPIC $uses -Iinclude -I"$(dirname "$3")" -I"$1/board" -Itests/core \
    -fsanitize=undefined -fsanitize-undefined-trap-on-error -c -o "$5" "$4"
