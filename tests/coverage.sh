#!/bin/sh
# Lines and branches of the core, and lines of the host's code, that the quick
# tests reach. What is left out is marked in the code with a reason:
# LCOV_EXCL_LINE, or between LCOV_EXCL_START and LCOV_EXCL_STOP.
set -eu
cd "$(dirname "$0")/.."
to=build/coverage
mkdir -p $to
{ [ -e $to/build.ninja ] || cmake --preset coverage >/dev/null; } &&
    cmake --build --preset coverage >$to/build.log 2>&1 || {
    cat $to/build.log
    exit 1
}
find $to -name '*.gcda' -delete
ctest --test-dir $to -j "$(nproc)" --label-exclude slow >$to/tests.log 2>&1 || {
    tail -n 20 $to/tests.log
    exit 1
}
# A curve that is built narrow, too, would have lines of two builds.
# figures NAME FILTER LINES BRANCHES: what gcovr sums up, held to the least that
# each may be.
short=0
figures() {
    gcovr --root . --object-directory $to --filter "$2" \
        --exclude-throw-branches --exclude-unreachable-branches \
        --exclude-directories '.*/narrow.dir/.*' \
        --txt "$to/$1.txt" --print-summary 2>/dev/null >"$to/$1.sum"
    awk -v name="$1" -v lines="$3" -v branches="$4" '
        /^(lines|branches)/ {
            least = $1 == "lines:" ? lines : branches
            printf "%s %s %s (at least %s%%)  ", name, $1, $2, least
            short += $2 + 0 < least
        }
        END { print ""; exit short > 0 }' "$to/$1.sum" || short=1
}
figures core 'src/' 100 95
figures act 'src/act/' 100 95
figures host '(ports|grammar|sitefile|cli|garden)/' 85 75
exit $short
