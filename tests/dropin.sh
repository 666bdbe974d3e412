#!/bin/sh
# examples/dropin, copied out of the tree with the two-file core, as its README says:
# on this machine by two compilers, and for every kind of part that there is a
# compiler for here. dropin.sh COMMAND
set -eu
cuplatch=$(cd "$(dirname "$1")" && pwd)/$(basename "$1")
cd "$(dirname "$0")/.."
away=$(mktemp -d)
trap 'rm -rf "$away"' EXIT
cmake/twofile.sh "$away/core"
warned="-Wall -Wextra -Werror"

# built NAME COMPILER FLAGS [BOARD [LINKED]]: in a folder of its own.
built() {
    cp -r examples/dropin "$away/$1"
    cp "$away/core/cuplatch.c" "$away/core/cuplatch.h" "$away/$1"
    make -s -C "$away/$1" CUPLATCH="$cuplatch" CC="$2" CFLAGS="$3" \
        BOARD="${4:-board_yours.c}" LDFLAGS="${5-}" garden || {
        echo "dropin: not built for $1" >&2
        exit 1
    }
    echo "  $1"
}

echo "The project to copy, built for"
built "this machine, gcc" gcc "-O2 $warned" board_pc.c
make -s -C "$away/this machine, gcc" CUPLATCH="$cuplatch" check >/dev/null
built "this machine, clang" clang "-O2 $warned" board_pc.c
"$away/this machine, clang/garden" | cmp - "$away/this machine, gcc/said"
built "s390x, big-endian" s390x-linux-gnu-gcc "-O2 $warned" board_pc.c -static
qemu-s390x "$away/s390x, big-endian/garden" | cmp - "$away/this machine, gcc/said"
for mcu in atmega328p atmega1284p; do
    built $mcu avr-gcc "-Os -flto -mmcu=$mcu $warned"
done
for cpu in cortex-m0plus cortex-m3; do
    built $cpu arm-none-eabi-gcc "-Os -mthumb -mcpu=$cpu -DCUP_SMALL $warned" \
        board_yours.c --specs=nosys.specs
done
# Without a standard library: the four functions that the core asks of one are
# declared in firmware/plain, and your own to give.
bare="-I$PWD/firmware/plain -Os -ffreestanding -DCUP_SMALL $warned"
built rv32imac riscv64-unknown-elf-gcc "-march=rv32imac -mabi=ilp32 $bare" \
    board_yours.c "-nostdlib -r"
built "Xtensa, Wi-Fi class" xtensa-lx106-elf-gcc "$bare" board_yours.c "-nostdlib -r"
