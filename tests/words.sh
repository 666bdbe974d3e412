# Words of ./dev that try what was built; it reads this. The lists of packages stand there.
# shellcheck shell=sh disable=SC2154

advised() {
    # shellcheck disable=SC2086
    need $to_build
    build release
    tests/advice/gardens.sh build/release "$@"
}

prove() {
    # shellcheck disable=SC2086
    need $to_prove
    tests/prove/prove.sh
}

coverage() {
    # shellcheck disable=SC2086
    need $to_build $to_cover
    tests/coverage.sh
}

mutate() {
    # shellcheck disable=SC2086
    need $to_build
    tests/mutate/mutate.sh "$@"
}

oracle() {
    # shellcheck disable=SC2086
    need $to_build
    build debug
    ORACLE_SITES=${1:-2000} build/debug/tests/oracle
    tests/oracle/planted.sh build/debug
}

# Each fuzzer for some seconds, two at a time, on its seeds and what it finds.
fuzz() {
    # shellcheck disable=SC2086
    need $to_build clang libclang-rt-14-dev
    build fuzz
    for corpus in tests/fuzz/corpus/*; do basename "$corpus"; done |
        xargs -P "$(at_once)" -I NAME tests/fuzz/run.sh NAME "$1"
}

freestanding() {
    build freestanding
    tests/lint/freestanding.sh build/freestanding/libcuplatch.a
}

bench() {
    # shellcheck disable=SC2086
    need $to_build $to_bench
    build release
    tests/bench/bench.sh
}

bench_check() {
    tests/bench/bench.sh check
    tests/lint/twofile.sh
}

blocks() {
    tests/lint/blocks.sh
}

# No picture is older than what it shows.
pictures() {
    docs/shots.sh check
}

installed() {
    tests/lint/install.sh
}

dropin() {
    tests/dropin.sh build/release/cuplatch
}

boards() {
    firmware 10
}

# Keeper's Garden for a year without faults, for each seed.
year() {
    # shellcheck disable=SC2086
    need $to_build
    build release
    [ $# -gt 0 ] || set -- 1 2 3 4 5
    printf '%s\n' "$@" | xargs -P "$(at_once)" -n 1 tests/command/year.sh \
        build/release/cuplatch examples/keeper
}

kills() {
    # shellcheck disable=SC2086
    need $to_build
    build debug
    CUPLATCH_KILLS=${1:-500} build/debug/tests/guardian \
        off_within_half_a_second_of_any_death
    CUPLATCH_KILLS=$((${1:-500} * 2 / 5)) build/debug/tests/serve \
        what_is_kept_is_what_was_told_however_often_it_is_killed
}

linux_board() {
    # shellcheck disable=SC2086
    need $to_build $to_linux
    build debug
    tests/linux/board.sh "$PWD/build/debug/tests/board"
}

cuts() {
    # shellcheck disable=SC2086
    need $to_build mosquitto
    build debug
    CUPLATCH_SECONDS=$((${1:-30} * 60)) CUPLATCH_SEED=${2:-77041} \
        build/debug/tests/afar what_is_told_here_is_known_there_whoever_is_killed
}

many() {
    # shellcheck disable=SC2086
    need $to_build mosquitto
    build release
    cmake --build --preset release --target many cuplatch-serve >/dev/null
    for sites in 10 100 "${1:-1000}"; do
        CUPLATCH_SITES=$sites CUPLATCH_SECONDS=$((${2:-1} * 60)) \
            build/release/tests/many
    done
}

year_once() {
    year 2
    tests/command/storm.sh build/release/cuplatch examples/keeper 1 2 3 4
}

fuzz_each() {
    fuzz 10
}

# Runs parts of a whole test beside each other, one more than there are processors; what
# each says comes when it has ended. The longest come first.
together() {
    mkdir -p build/part
    printf '%s\n' "$@" | CUPLATCH_JOBS=1 xargs -P "$(($(nproc) + 1))" -n 1 "$0" part
}

# What waits more than it computes goes before the rest where both want a processor.
part() {
    began=$(date +%s)
    code=0
    case $1 in
    tests_that_wait | package) after="" ;;
    *) after="nice -n 10" ;;
    esac
    $after "$0" alone "$1" >"build/part/$1.log" 2>&1 </dev/null || code=$?
    {
        echo "-- $1, $(($(date +%s) - began)) s"
        cat "build/part/$1.log"
    } >"build/part/$1.said"
    cat "build/part/$1.said"
    [ "$code" -eq 0 ] || {
        echo "-- $1 failed"
        exit 255 # no further part is begun
    }
}

# Each test once: by clang with its sanitizers, or, where it computes for long, as it is
# installed. Those that wait run many at once.
tests_that_wait() {
    export CUPLATCH_NOTHING_LEFT_OUT=yes
    ctest --preset sanitize -j 8 --label-regex waits
    ctest --preset release -j "$(nproc)" --label-regex once
}

tests_that_compute() {
    ctest --preset sanitize -j "$(at_once)" --label-exclude 'once|waits|whole'
}

test_quick() {
    # shellcheck disable=SC2086
    need $to_build
    build debug
    ctest --preset debug -j "$(nproc)" --label-exclude slow
}

test_all() {
    # shellcheck disable=SC2086
    need $to_build $to_test $to_bench $to_page $to_package $to_site $to_complete
    need_node
    mkdir -p build
    # what is wanted later is fetched meanwhile
    # shellcheck disable=SC2086
    { page && need $to_board; } >build/need.log 2>&1 &
    fetching=$!
    site
    freestanding
    build release
    cmake --build --preset release --target many guardian cuplatch_standin >>build/release.log
    build sanitize
    wait "$fetching" || {
        cat build/need.log >&2
        return 1
    }
    together tests_that_wait tests_that_compute boards package bench_check tidy_host \
        lint_rest tidy_core dropin tidy_tests installed pictures
}

# What takes too long for each change: the proofs, and what is like them.
# The quick tests as somebody without rights, in a copy of the tree that is theirs.
as_nobody() {
    [ "$(id -u)" -eq 0 ] || {
        echo "as_nobody: whoever asks has no rights already"
        return 0
    }
    copy=$(mktemp -d)
    git ls-files -co --exclude-standard -z | xargs -0 cp --parents -t "$copy"
    chown -R nobody "$copy"
    su -s /bin/sh nobody -c "cd $copy && export HOME=$copy && git init -q && git add -A &&
        cmake --preset debug >build.log 2>&1 &&
        cmake --build --preset debug >>build.log 2>&1 &&
        ctest --preset debug -j $(nproc) --label-exclude slow" || {
        tail -20 "$copy/build.log"
        return 1
    }
    rm -rf "$copy"
}

test_whole() {
    test_all
    together fuzz_each prove misra blocks year_once tidy_deeply
    build debug
    CUPLATCH_SIEGE=200000 ctest --preset debug -j "$(nproc)" --label-regex whole
    as_nobody
    package_twice
    # README's order, and the other; and each word first where there is nothing yet
    fresh demo test
    fresh test demo
    for word in live page package "test quick"; do fresh "$word"; done
}
