#!/bin/sh
# tests/page/run.sh NODE BIN ROOT NAME: one of the page's tests, by node's runner.
set -eu
node=$1
root=$3
CUPLATCH_BIN=$2
CUPLATCH_GARDEN=$root/examples/keeper
CUPLATCH_PAGE=$root/build/page
CUPLATCH_SITE=$root/build/site
export CUPLATCH_BIN CUPLATCH_GARDEN CUPLATCH_PAGE CUPLATCH_SITE
[ "$4" != docs ] || [ -e "$CUPLATCH_SITE/index.html" ] || {
    echo "left out: ./dev site makes the docs' site" >&2
    exit 77
}
[ -x "$node" ] && [ -e "$CUPLATCH_PAGE/index.html" ] &&
    [ -d "$root/web/node_modules" ] || {
    echo "left out: ./dev page builds the page, and needs node" >&2
    exit 77
}
exec "$node" --test "$root/tests/page/$4.test.js"
