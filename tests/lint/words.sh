# Words of ./dev that look at what is written; it reads this.
# shellcheck shell=sh disable=SC2154

sources() {
    git ls-files -co --exclude-standard -- '*.c' '*.h'
}

format() {
    need clang-format
    # shellcheck disable=SC2046
    clang-format -i $(sources)
}

misra() {
    need cppcheck
    tests/lint/misra.sh
}

# tidy NODES PATTERN [WITHOUT]: clang-tidy of the sources that match; in each function
# its analyzer looks at so many states, which is what takes the time.
tidy() {
    # shellcheck disable=SC2086
    sources | grep '\.c$' | grep -E "$2" | grep -vE "${3-^$}" |
        xargs -P "$(at_once)" -n 6 clang-tidy --quiet -p build/sanitize \
            --extra-arg=-Xclang --extra-arg=-analyzer-config \
            --extra-arg=-Xclang --extra-arg="max-nodes=$1" 2>>build/tidy.log
}

tidy_core() {
    tidy 20000 '^src/'
}

tidy_host() {
    tidy 8000 '' '^(firmware|examples/dropin|src|tests)/'
}

tidy_tests() {
    tidy 5000 '^tests/' '^tests/(fuzz|prove|package)/'
}

tidy_deeply() {
    tidy 100000 '' '^(firmware|examples/dropin|tests/(fuzz|prove|package))/'
}

lint_rest() {
    # shellcheck disable=SC2046
    clang-format --dry-run --Werror $(sources)
    tests/lint/limits.sh
    # (by one thread it looks across files, and is wrong about what it sees there)
    cppcheck --quiet --error-exitcode=1 --std=c11 --inline-suppr \
        --enable=warning,performance,portability -j 2 \
        --suppress=missingIncludeSystem -Iinclude -D__GNUC__ \
        src ports grammar sitefile cli controller garden socket pins kept history report serve advice
    # fuzzers are built by `./dev fuzz` alone: that they still could be is seen here
    clang -std=c11 -D_POSIX_C_SOURCE=200809L -DFUZZ_DIR='""' -DSTANDIN_DIR='""' -Iinclude -Wall -Werror \
        -fsyntax-only tests/fuzz/*.c
    tests/lint/rooms_planted.sh
    tests/lint/tried.sh
    tests/lint/circles.sh build/sanitize
    tests/lint/docs.sh build/sanitize
    tests/lint/uses.sh
    tests/lint/pictures.sh
    echo "lint: clean"
}

lint() {
    # shellcheck disable=SC2086
    need $to_build $to_test
    build sanitize
    tidy_core
    tidy_host
    tidy_tests
    lint_rest
}
