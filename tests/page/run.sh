#!/bin/sh
# tests/page/run.sh BIN ROOT NAME: one of the page's tests, by node's runner.
set -eu
root=$2
CUPLATCH_BIN=$1
CUPLATCH_GARDEN=$root/examples/keeper
CUPLATCH_PAGE=$root/build/page
CUPLATCH_SITE=$root/build/site
export CUPLATCH_BIN CUPLATCH_GARDEN CUPLATCH_PAGE CUPLATCH_SITE

# Where everything was to be tested, nothing may be missing.
left_out() {
    echo "left out: $1" >&2
    [ -z "${CUPLATCH_NOTHING_LEFT_OUT-}" ] || exit 1
    exit 77
}

[ "$3" != docs ] || [ -e "$CUPLATCH_SITE/index.html" ] ||
    left_out "./dev site makes the docs' site"
command -v node >/dev/null && [ -e "$CUPLATCH_PAGE/index.html" ] &&
    [ -d "$root/web/node_modules" ] ||
    left_out "./dev page builds the page, and needs node"
exec node --test "$root/tests/page/$3.test.mjs"
