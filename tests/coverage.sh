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
# figures NAME FILTER: what gcovr sums up.
figures() {
    gcovr --root . --object-directory $to --filter "$2" \
        --exclude-throw-branches --exclude-unreachable-branches \
        --txt "$to/$1.txt" --print-summary 2>/dev/null |
        awk -v name="$1" '/^(lines|branches)/ {printf "%s %s %s  ", name, $1, $2}
            END {print ""}'
}
figures core 'src/'
figures act 'src/act/'
figures host '(ports|sitefile|cli|garden)/'
