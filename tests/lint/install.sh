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
echo "install: found by pkg-config and by CMake"
