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
LD_LIBRARY_PATH=$(dirname "$(find "$PWD/$work/usr" -name libcuplatch.a)")
export LD_LIBRARY_PATH
archive=$LD_LIBRARY_PATH/libcuplatch.a

fail() {
    echo "install: $*" >&2
    exit 1
}

uses() { readelf -d "$1" | grep -q 'NEEDED.*libcuplatch'; }

# Its licence comes with it, and with the two files.
cmp LICENSE "$(find "$PWD/$work/usr/share/doc" -name LICENSE)" || fail "no licence is installed"
cmake/twofile.sh "$work/twofile"
for file in cuplatch.h cuplatch.c; do
    head -n 2 "$work/twofile/$file" | grep -q 'SPDX-License-Identifier: MIT' &&
        head -n 2 "$work/twofile/$file" | grep -q '^ \* Copyright (c) ' ||
        fail "$file does not say whose it is"
done
# Everybody whose work is in the page is named there.
if [ -e build/page/index.html ]; then
    page=$(find "$PWD/$work/usr" -name licences.txt)
    for whose in "Cup Latch authors" "Jason Miller" "Leon Sorokin" "Sindre Sorhus" \
        "Jonathan Neal" "Nicolas Gallagher"; do
        grep -q "Copyright (c) .*$whose" "$page" || fail "the page's licences do not name: $whose"
        grep -q "$whose" debian/copyright || fail "debian/copyright does not name: $whose"
    done
    # as many as the packages themselves name
    [ "$(grep -c '^Copyright' "$page")" = "$(cat LICENSE web/node_modules/preact/LICENSE \
        web/node_modules/uplot/LICENSE web/node_modules/modern-normalize/license |
        grep -c '^Copyright')" ] || fail "somebody's licence is missing in the page"
fi

# A C and a C++ project of their own, by pkg-config, shared and static. The static
# library holds machine code, which another compiler can link.
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
flags=$(pkg-config --cflags cuplatch)
shared=$(pkg-config --libs cuplatch)
one=$work/one
# made COMPILER FILE FLAGS WITH: a program of FILE that says what it should
made() {
    # shellcheck disable=SC2086
    $1 $flags "$2" -o "$one" $3 || fail "$1 $3: $2 is not built"
    "$one" >"$work/said"
}
for with in "$shared" "$archive"; do
    for compiler in gcc clang; do
        made "$compiler" examples/one_latch.c "$with"
        diff "$work/said" examples/one_latch.out
    done
    made "g++ -std=c++11" "$work/latch.cpp" "$with"
    grep -qx on "$work/said" || fail "the latch is not on from C++"
    case $with in
    "$archive") uses "$one" && fail "it uses the shared library all the same" ;;
    *) uses "$one" || fail "it does not use the shared library" ;;
    esac
done
# A whole site gives the core its port: a bed that is dry is watered.
cat >"$work/site.c" <<'END'
#include "cuplatch/port.h"
#include <stdio.h>
#include "bed.h"

static uint32_t ms;
static bool water;

uint32_t cup_port_now_ms(struct cup_port *port)
{
    (void)port;
    return ms;
}

struct cup_sample cup_port_sample(struct cup_port *port, cup_index sensor)
{
    (void)port, (void)sensor;
    return (struct cup_sample){.raw = 2700};
}

enum cup_error cup_port_drive(struct cup_port *port, cup_index pump, bool high)
{
    (void)port, (void)pump;
    water = high;
    return CUP_OK;
}

void cup_port_tell(struct cup_port *port, const struct cup_event *event)
{
    (void)port, (void)event;
}

void cup_port_feed(struct cup_port *port)
{
    (void)port;
}

/* What its plan has nothing for. */
enum cup_error cup_port_supply(struct cup_port *port, cup_index supply, bool on)
{
    (void)port, (void)supply, (void)on;
    return CUP_ERROR_PORT;
}

size_t cup_port_bytes(struct cup_port *port, cup_index thing, uint8_t *bytes,
                      size_t size)
{
    (void)port, (void)thing, (void)bytes, (void)size;
    return 0;
}

enum cup_error cup_port_move(struct cup_port *port, cup_index pump,
                             uint16_t place_pct100, int way)
{
    (void)port, (void)pump, (void)place_pct100, (void)way;
    return CUP_ERROR_PORT;
}

void cup_port_light(struct cup_port *port, cup_index lamp, uint8_t lit)
{
    (void)port, (void)lamp, (void)lit;
}

bool cup_port_closed(struct cup_port *port, cup_index button)
{
    (void)port, (void)button;
    return false;
}

int main(void)
{
    for (; ms < 300000; ms += 1000)
        if (cup_port_pass(NULL, &baked) != CUP_OK)
            return 1;
    puts(water ? "water" : "-");
}
END
"$work/usr/bin/cuplatch" bake examples/one_site.ini -o "$work/bed.c"
made gcc "$work/site.c" "$work/bed.c -I$work $shared"
grep -qx water "$work/said" || fail "a site over the shared core does not water"
uses "$one" || fail "the site does not use the shared core"
made gcc "$work/site.c" "$work/bed.c -I$work ${archive%.a}_loop.a $archive"
grep -qx water "$work/said" || fail "a site over the static core does not water"
# The two files, too; without the loop they ask for nothing of a program.
flags="-I$work/twofile -I$work"
sed 's|"cuplatch/[a-z]*\.h"|"cuplatch.h"|' "$work/site.c" >"$work/site_two.c"
for file in bed.c bed.h; do
    sed -i 's|"cuplatch/[a-z]*\.h"|"cuplatch.h"|' "$work/$file"
done
made gcc "$work/site_two.c" "$work/bed.c $work/twofile/cuplatch.c"
grep -qx water "$work/said" || fail "a site over the two files does not water"
gcc -c -DCUP_NO_LOOP "$work/twofile/cuplatch.c" -o "$work/cuplatch.o"
nm -u "$work/cuplatch.o" | grep ' cup_' && fail "without the loop something is asked for"
# A function of a port that is missing is found when it is linked, by every kind.
sed '/^void cup_port_feed/,/^}/d' "$work/site_two.c" >"$work/lacks.c"
lacks() {
    # shellcheck disable=SC2086
    gcc -I"$work/twofile" -I"$work" "$work/lacks.c" "$work/bed.c" $1 -o "$one" 2>"$work/said" &&
        fail "a port without cup_port_feed() links with $1"
    grep -q 'undefined reference to .cup_port_feed' "$work/said" || fail "$1: $(cat "$work/said")"
}
lacks "$shared"
lacks "${archive%.a}_loop.a $archive"
lacks "$work/twofile/cuplatch.c"
nm -u "$archive" 2>/dev/null | awk '$1 == "U" && $2 ~ /^cup_port_/' | grep . &&
    fail "the core asks for functions of a port"

# The same by CMake.
mkdir "$work/theirs"
cat >"$work/theirs/CMakeLists.txt" <<'END'
cmake_minimum_required(VERSION 3.25)
project(theirs C CXX)
find_package(cuplatch 0.2 REQUIRED)
foreach(kind core shared)
  add_executable(site_${kind} ../site_two.c ../bed.c)
  target_include_directories(site_${kind} PRIVATE .. ../twofile)
  target_link_libraries(site_${kind} PRIVATE cuplatch::loop cuplatch::${kind})
  add_executable(c_${kind} ../../../examples/one_latch.c)
  add_executable(cpp_${kind} ../latch.cpp)
  target_link_libraries(c_${kind} PRIVATE cuplatch::${kind})
  target_link_libraries(cpp_${kind} PRIVATE cuplatch::${kind})
endforeach()
END
cmake -G Ninja -S "$work/theirs" -B "$work/theirs/build" \
    -DCMAKE_PREFIX_PATH="$PWD/$work/usr" >/dev/null
cmake --build "$work/theirs/build" >/dev/null
for kind in core shared; do
    "$work/theirs/build/c_$kind" | diff - examples/one_latch.out
    [ "$("$work/theirs/build/cpp_$kind")" = on ] || fail "cpp_$kind is not on"
    [ "$("$work/theirs/build/site_$kind")" = water ] || fail "site_$kind does not water"
done
uses "$work/theirs/build/site_shared" || fail "cuplatch::loop keeps to the static core"
uses "$work/theirs/build/c_shared" || fail "cuplatch::shared is not the shared library"
uses "$work/theirs/build/c_core" && fail "cuplatch::core is the shared library"
sed -i 's/find_package(cuplatch 0.2/find_package(cuplatch 0.1/' "$work/theirs/CMakeLists.txt"
cmake --fresh -G Ninja -S "$work/theirs" -B "$work/theirs/build" \
    -DCMAKE_PREFIX_PATH="$PWD/$work/usr" >/dev/null 2>&1 &&
    fail "a version before is taken for this one"
"$work/usr/bin/cuplatch" --version >/dev/null

# Every header by itself is C++, from C++11 on, and links under its C names.
for header in "$work"/usr/include/cuplatch/*.h; do
    echo "#include \"cuplatch/${header##*/}\"" >"$work/alone.cpp"
    for compiler in "g++ -std=c++11" "clang++ -std=c++20"; do
        $compiler -Wall -Wextra -Wpedantic -Werror -fsyntax-only \
            -I"$work/usr/include" "$work/alone.cpp" ||
            fail "${header##*/} is no C++ for $compiler"
    done
done
# Four places start programs: gnuplot, by a list of words; a controller itself
# anew; the shell, for what a pins file names and nothing else; and, beside the
# controller, the command for alerts, by its whole path.
nm -D --undefined-only "$work/usr/bin/cuplatch" "$work/usr/bin/cuplatch-serve" |
    grep -E ' (system|popen|wordexp|posix_spawnp|execle|execvpe?|execve)@' &&
    fail "something else than execlp(), execl() and execv() starts programs"
nm -D --undefined-only "$work/usr/bin/cuplatch" | grep -E ' posix_spawn@' &&
    fail "the controller starts programs otherwise"
grep -oE '\b(exec(lp|l|v)|posix_spawn)\(' cli/*.c cli/*/*.c controller/*.c ports/*/*.c \
    kept/*.c socket/*.c history/*.c report/*.c serve/*.c serve/*/*.c advice/*.c |
    sort >"$work/starts"
diff - "$work/starts" <<'END' || fail "programs are started elsewhere, too"
cli/picture/draw.c:execlp(
cli/run.c:execv(
ports/linux/way_program.c:execl(
serve/alerts/post.c:posix_spawn(
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
# declare.
library=$(find "$work/usr" -name 'libcuplatch.so.*.*.*')
readelf -d "$library" | grep -qE 'SONAME.*libcuplatch\.so\.[0-9]+\]' ||
    fail "no version in the name of the shared library"
nm -D --defined-only "$library" | awk '{print $3}' | while read -r name; do
    grep -q "\`$name()\`" docs/reference/api.md ||
        fail "$name is shown by the shared library, but not public"
done
nm -D --defined-only "$library" | grep -q ' cup_site_bind$' ||
    fail "the shared library shows too little"

# What was installed is taken away again, and only that.
touch "$work/usr/bin/theirs"
cmake --build build/release --target uninstall >/dev/null
[ "$(find "$work/usr" -type f -o -type l)" = "$work/usr/bin/theirs" ] ||
    fail "left after it was uninstalled: $(find "$work/usr" -type f -o -type l)"

# The core alone, where none of the host's libraries is found.
PKG_CONFIG_LIBDIR=/nonexistent PKG_CONFIG_PATH="" cmake -G Ninja -S . -B "$work/core" \
    -DCUPLATCH_HOST=OFF -DCUPLATCH_SHARED=ON -DCMAKE_BUILD_TYPE=MinSizeRel >/dev/null
cmake --build "$work/core" >/dev/null
cmake --install "$work/core" --prefix "$PWD/$work/alone" >/dev/null
PKG_CONFIG_PATH=$(dirname "$(find "$PWD/$work/alone" -name cuplatch.pc)")
archive=$(find "$work/alone" -name libcuplatch.a)
flags=$(pkg-config --cflags cuplatch)
made gcc examples/one_latch.c "$archive"
diff "$work/said" examples/one_latch.out
echo "install: found by pkg-config and by CMake, from C++, static and shared"
