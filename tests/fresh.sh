#!/bin/sh
# A bare Debian in a folder, a clone of this tree in it, and there the words of ./dev in
# the order that they are given in, as somebody types them who has just heard of us:
# fresh.sh WORD...; "demo test" if there are none. A word may have blanks in it.
# What is committed is cloned, nothing else. As root.
set -eu
cd "$(dirname "$0")/.."
[ "$(id -u)" -eq 0 ] || {
    echo "fresh: another root is made, which only root can: sudo ./dev fresh" >&2
    exit 1
}
[ $# -gt 0 ] || set -- demo test
to=$PWD/build/fresh
base=$PWD/build/fresh-base.tar
machine=$to/machine

# All that it has: what Debian itself begins with, and git to clone by.
[ -e "$base" ] || {
    mmdebstrap --quiet --format=tar --variant=minbase --include=git,ca-certificates \
        bookworm "$base.new"
    mv "$base.new" "$base"
}
rm -rf --one-file-system "$to"
mkdir -p "$machine"
tar -xf "$base" -C "$machine" --exclude './dev/*'
# where packages come from is this machine's own affair
for file in /etc/resolv.conf /etc/hosts "$HOME/.npmrc"; do
    [ ! -e "$file" ] || cp -L "$file" "$machine/$([ "${file#/etc}" = "$file" ] && echo root || echo etc)/"
done
git clone --quiet --no-hardlinks . "$machine/root/cup-latch"
cat >"$machine/root/typed" <<'TYPED'
#!/bin/sh
set -eu
export HOME=/root PATH=/usr/local/sbin:/usr/local/bin:/usr/sbin:/usr/bin:/sbin:/bin LANG=C.UTF-8
cd /root/cup-latch
for word in "$@"; do
    echo "\$ ./dev $word"
    began=$(date +%s)
    ./dev $word </dev/null || {
        echo "fresh: ./dev $word failed"
        exit 1
    }
    echo "fresh: ./dev $word, $(($(date +%s) - began)) s"
done
TYPED
chmod +x "$machine/root/typed"

# Its own processes and mounts, which end with it.
unshare --mount --pid --fork --kill-child sh -eu -c '
    machine=$1
    shift
    mount --make-rprivate /
    for folder in dev sys; do mount --rbind "/$folder" "$machine/$folder"; done
    mount -t proc proc "$machine/proc"
    mount -t tmpfs tmpfs "$machine/run"
    exec chroot "$machine" /root/typed "$@"' fresh "$machine" "$@"
rm -rf --one-file-system "$to"
echo "fresh: $*: whole"
