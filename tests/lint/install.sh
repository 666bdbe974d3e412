#!/bin/sh
# Shows that what is installed can be used: a program of its own finds the core
# by pkg-config and by the CMake package.
set -eu
cd "$(dirname "$0")/../.."
work=build/install
rm -rf "$work"
cmake --install build/release --prefix "$PWD/$work/usr" >/dev/null
config=$(find "$PWD/$work/usr" -name cuplatch.pc)
PKG_CONFIG_PATH=$(dirname "$config")
export PKG_CONFIG_PATH
# shellcheck disable=SC2046
gcc examples/one_latch.c $(pkg-config --cflags --libs cuplatch) -o "$work/one"
"$work/one" | diff - examples/one_latch.out
mkdir "$work/theirs"
cat >"$work/theirs/CMakeLists.txt" <<'END'
cmake_minimum_required(VERSION 3.25)
project(theirs C)
find_package(cuplatch 0.1 REQUIRED)
add_executable(one ../../../examples/one_latch.c)
target_link_libraries(one PRIVATE cuplatch::core)
END
cmake -G Ninja -S "$work/theirs" -B "$work/theirs/build" \
    -DCMAKE_PREFIX_PATH="$PWD/$work/usr" >/dev/null
cmake --build "$work/theirs/build" >/dev/null
"$work/theirs/build/one" | diff - examples/one_latch.out
"$work/usr/bin/cuplatch" --version >/dev/null

fail() {
    echo "install: $*" >&2
    exit 1
}

# The static library holds machine code, which another compiler can link.
# shellcheck disable=SC2046
clang examples/one_latch.c $(pkg-config --cflags --libs cuplatch) \
    -o "$work/other"
"$work/other" | diff - examples/one_latch.out

# Every header by itself is C++, from C++11 on, and links under its C names.
for header in "$work"/usr/include/cuplatch/*.h; do
    echo "#include \"cuplatch/${header##*/}\"" >"$work/alone.cpp"
    for compiler in "g++ -std=c++11" "clang++ -std=c++20"; do
        $compiler -Wall -Wextra -Wpedantic -Werror -fsyntax-only \
            -I"$work/usr/include" "$work/alone.cpp" ||
            fail "${header##*/} is no C++ for $compiler"
    done
done
cat >"$work/latch.cpp" <<'END'
#include <cstdio>

#include "cuplatch/latch.h"

int main()
{
    cup_latch latch = {};
    cup_latch_state state = {};
    latch.start = 3000;
    latch.stop = 6000;
    cup_latch_step(&latch, &state, 0, 2500, true);
    std::puts(state.on ? "on" : "off");
}
END
# shellcheck disable=SC2046
g++ -std=c++11 "$work/latch.cpp" $(pkg-config --cflags --libs cuplatch) \
    -o "$work/latch"
[ "$("$work/latch")" = on ] || fail "the latch is not on from C++"

# Four places start programs: gnuplot, by a list of words; a controller itself
# anew; the shell, for what a pins file names and nothing else; and, beside the
# controller, the command for alerts, by its whole path.
nm -D --undefined-only "$work/usr/bin/cuplatch" "$work/usr/bin/cuplatch-serve" |
    grep -E ' (system|popen|wordexp|posix_spawnp|execle|execvpe?|execve)@' &&
    fail "something else than execlp(), execl() and execv() starts programs"
nm -D --undefined-only "$work/usr/bin/cuplatch" | grep -E ' posix_spawn@' &&
    fail "the controller starts programs otherwise"
grep -oE '\b(exec(lp|l|v)|posix_spawn)\(' cli/*.c ports/*/*.c kept/*.c socket/*.c \
    history/*.c report/*.c serve/*.c serve/page/*.c advice/*.c |
    sort >"$work/starts"
diff - "$work/starts" <<'END' || fail "programs are started elsewhere, too"
cli/draw.c:execlp(
cli/run.c:execv(
ports/linux/way_program.c:execl(
serve/post.c:posix_spawn(
END

# What is installed is hardened.
for program in cuplatch cuplatch-serve; do
    installed=$work/usr/bin/$program
    readelf -d "$installed" | grep -q BIND_NOW || fail "$program: lazy binding"
    readelf -l "$installed" | grep -q GNU_RELRO || fail "$program: no RELRO"
    readelf -h "$installed" | grep -q 'DYN' || fail "$program: fixed address"
    for guard in __stack_chk_fail '_chk@'; do
        nm "$installed" | grep -q "$guard" || fail "$program: no $guard"
    done
done

# The command reaches no network: nothing of it is linked.
readelf -d "$work/usr/bin/cuplatch" | grep -E 'NEEDED.*lib(event|mosquitto|curl|ssl)' &&
    fail "the command is linked with what reaches a network"

# The shared library: a version in its name, nothing shown but what the headers
# declare, and the installed command finds it.
cmake --install build/shared --prefix "$PWD/$work/shared" >/dev/null
library=$(find "$work/shared" -name 'libcuplatch.so.*.*.*')
readelf -d "$library" | grep -qE 'SONAME.*libcuplatch\.so\.[0-9]+\]' ||
    fail "no version in the name of the shared library"
nm -D --defined-only "$library" | awk '{print $3}' | while read -r name; do
    grep -q "\`$name()\`" docs/reference/api.md ||
        fail "$name is shown by the shared library, but not public"
done
nm -D --defined-only "$library" | grep -q ' cup_site_bind$' ||
    fail "the shared library shows too little"
"$work/shared/bin/cuplatch" check examples/keeper/keeper.ini >/dev/null ||
    fail "the command does not find the shared library"
echo "install: found by pkg-config and by CMake, from C++, static and shared"
