#!/bin/sh
# Puts a small Linux machine together and runs the command on it for real, but
# for the machine: Debian's own kernel for 32-bit ARM, emulated. What is fetched
# stays in build/board, with package lists of its own; nothing is installed.
set -eu
cd "$(dirname "$0")/../.."
at=$PWD/build/board
triple=arm-linux-gnueabihf
mkdir -p "$at/apt/state/lists/partial" "$at/apt/cache/archives/partial" \
    "$at/debs" "$at/root"
: >"$at/apt/status"
cat >"$at/apt.conf" <<END
APT::Architecture "armhf";
APT::Architectures { "armhf"; };
APT::Sandbox::User "root";
Acquire::Languages "none";
Dir::State "$at/apt/state";
Dir::State::status "$at/apt/status";
Dir::Cache "$at/apt/cache";
END

# Fetches what is not there yet, and unpacks it.
fetch() {
    [ ! -e "$at/fetched" ] || return 0
    export APT_CONFIG="$at/apt.conf"
    apt-get -qq update || true # an index that is missing shows below
    kernel=$(apt-cache depends linux-image-armmp |
        sed -n 's/.*Depends: \(linux-image-[^ ]*\)/\1/p' | head -n 1)
    (cd "$at/debs" && apt-get -qq download "$kernel" busybox-static \
        libmodbus5 libmodbus-dev libjansson4 libjansson-dev libpopt0 \
        libpopt-dev libncurses-dev libncursesw6 libtinfo6 libinih1 libinih-dev)
    unset APT_CONFIG
    for deb in "$at"/debs/*.deb; do dpkg-deb -x "$deb" "$at/root"; done
    touch "$at/fetched"
}

# The command, for it.
compile() {
    export PKG_CONFIG_LIBDIR="$at/root/usr/lib/$triple/pkgconfig"
    export PKG_CONFIG_SYSROOT_DIR="$at/root"
    where="-L$at/root/usr/lib/$triple -L$at/root/lib/$triple"
    [ -e "$at/build/build.ninja" ] || cmake -S . -B "$at/build" -G Ninja \
        -DCMAKE_SYSTEM_NAME=Linux -DCMAKE_SYSTEM_PROCESSOR=arm \
        -DCMAKE_C_COMPILER=$triple-gcc -DCMAKE_BUILD_TYPE=Release \
        -DCMAKE_COMPILE_WARNING_AS_ERROR=ON -DCUPLATCH_TESTS=OFF \
        -DCMAKE_EXE_LINKER_FLAGS="$where -Wl,-rpath-link,$at/root/usr/lib/$triple -Wl,-rpath-link,$at/root/lib/$triple"
    cmake --build "$at/build"
    unset PKG_CONFIG_LIBDIR PKG_CONFIG_SYSROOT_DIR
}

# What it boots into: a shell at its console, the command, its libraries and the
# modules that it needs.
pack() {
    disk=$at/disk
    rm -rf "$disk"
    mkdir -p "$disk/bin" "$disk/dev" "$disk/proc" "$disk/sys" "$disk/lib" \
        "$disk/tmp" "$disk/run" "$disk/etc"
    cp "$at/root/bin/busybox" "$at/build/cuplatch" "$disk/bin"
    cp -L /usr/$triple/lib/ld-linux-armhf.so.3 /usr/$triple/lib/libc.so.6 \
        /usr/$triple/lib/libm.so.6 "$disk/lib"
    for name in libjansson.so.4 libpopt.so.0 libmodbus.so.5 libinih.so.1 \
        libncursesw.so.6 libtinfo.so.6; do
        find "$at/root" -name "$name" -exec cp -L {} "$disk/lib" ';'
    done
    for name in i2c-dev i2c-aspeed gpio-aspeed lm75; do
        find "$at/root/lib/modules" -name "$name.ko" -exec cp {} "$disk/lib" ';'
    done
    cp tests/linux/board.init "$disk/init"
    cp tests/linux/board.ini tests/linux/board.pins.ini "$disk/etc"
    (cd "$disk" && find . | cpio -o -H newc --quiet | gzip -1) >"$at/disk.gz"
    cp "$at"/root/boot/vmlinuz-* "$at/kernel"
    find "$at/root" -name aspeed-ast2600-evb.dtb -exec cp {} "$at/tree" ';'
    # a serial line beside the console's
    fdtput -t s "$at/tree" /ahb/apb/serial@1e783000 status okay
}

fetch >"$at/log" 2>&1 && compile >>"$at/log" 2>&1 && pack >>"$at/log" 2>&1 || {
    cat "$at/log" >&2
    exit 1
}
cd "$at" && "$1"
