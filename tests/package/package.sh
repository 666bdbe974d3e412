#!/bin/sh
# What build/package holds, on a clean Debian that is booted with its systemd: see
# inside.sh for what is done there. The base of that machine is kept beside it.
set -eu
cd "$(dirname "$0")/../.."
to=$PWD/build/package
version=$(cmake/version.sh)
before=0.0.9 # as long as the version, for it is put in its place
arch=$(dpkg --print-architecture)

lintian --allow-root --fail-on error,warning "$to/cuplatch_${version}_$arch.changes"

# The version before is this one, but for what it calls itself.
rm -rf "$to/before"
mkdir "$to/before"
for name in cuplatch cuplatch-serve; do
    tree=$to/before/$name
    dpkg-deb -R "$to/${name}_${version}_$arch.deb" "$tree"
    sed -i "s/^Version: .*/Version: $before/" "$tree/DEBIAN/control"
    sed -i "s/$(echo "$version" | sed 's/\./\\./g')/$before/g" "$tree/usr/bin/$name"
    dpkg-deb -b "$tree" "$to/before/${name}_${before}_$arch.deb" >/dev/null
    rm -rf "$tree"
done

# What a clean machine needs besides, as the packages themselves say.
needs=$(dpkg-deb -f "$to/cuplatch_${version}_$arch.deb" Depends &&
    dpkg-deb -f "$to/cuplatch-serve_${version}_$arch.deb" Depends)
names=$(echo "$needs, adduser" | tr ',' '\n' | sed 's/|.*//; s/(.*//; s/ //g' | sort -u |
    paste -sd ,)
base=$to/base-$(echo "$names" | cksum | cut -d ' ' -f 1).tar
[ -e "$base" ] || {
    rm -f "$to"/base-*.tar
    mmdebstrap --quiet --format=tar --variant=minbase --include="$names" bookworm "$base.new"
    mv "$base.new" "$base"
}
machine=$to/machine
rm -rf "$machine"
mkdir -p "$machine"
tar -xf "$base" -C "$machine" --exclude './dev/*'

proof=$machine/srv/proof
mkdir -p "$proof/before" "$proof/now"
cp "$to"/before/*.deb "$proof/before"
cp "$to/cuplatch_${version}_$arch.deb" "$to/cuplatch-serve_${version}_$arch.deb" \
    "$proof/now"
cp tests/package/garden.ini tests/package/garden.pins.ini tests/package/inside.sh \
    docs/howto/install.md "$proof"
# shellcheck disable=SC2046
gcc -O1 -Wall -Werror tests/package/coils.c $(pkg-config --cflags --libs libmodbus) \
    -o "$proof/coils"
echo "before=$before now=$version" >"$proof/versions"
cat >"$machine/etc/systemd/system/proof.service" <<'END'
[Unit]
SuccessAction=exit
FailureAction=exit
FailureActionExitStatus=1
After=multi-user.target

[Service]
Type=oneshot
ExecStart=/srv/proof/inside.sh
StandardOutput=file:/srv/proof/log
StandardError=inherit
TimeoutStartSec=240

[Install]
WantedBy=default.target
END
ln -sf ../proof.service "$machine/etc/systemd/system/multi-user.target.wants/proof.service"

code=0
systemd-nspawn --quiet --register=no --keep-unit --private-network --boot \
    --directory "$machine" --machine=cuplatch-proof >"$to/boot.log" 2>&1 </dev/null || code=$?
[ ! -e "$proof/log" ] || cat "$proof/log"
[ "$code" -eq 0 ] || {
    tail -30 "$to/boot.log" >&2
    exit 1
}
grep -q '^package: whole$' "$proof/log"
rm -rf "$machine"
