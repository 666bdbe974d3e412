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
# Where packages come from, and whom to trust for them, is this machine's own affair.
for file in /etc/resolv.conf /etc/hosts /etc/ssl/certs/ca-certificates.crt; do
    [ ! -e "$file" ] || cp -L "$file" "$machine$file"
done
[ ! -e "$HOME/.npmrc" ] || cp "$HOME/.npmrc" "$machine/root"
git clone --quiet --no-hardlinks . "$machine/root/cup-latch"
cat >"$machine/root/typed" <<'TYPED'
#!/bin/sh
set -eu
export HOME=/root NODE_EXTRA_CA_CERTS=/etc/ssl/certs/ca-certificates.crt
export PATH=/usr/local/sbin:/usr/local/bin:/usr/sbin:/usr/bin:/sbin:/bin LANG=C.UTF-8
cd /root/cup-latch

# What goes on until Ctrl-C has said by then where to look, and answers there.
live() {
    : >/root/said
    ./dev live </dev/null >/root/said 2>&1 &
    tries=6000
    until grep -q '^  Key ' /root/said; do
        tries=$((tries - 1))
        [ "$tries" -gt 0 ] && kill -0 $! || {
            cat /root/said
            return 1
        }
        sleep 0.1
    done
    cat /root/said
    sleep 2
    bash -c 'exec 3<>/dev/tcp/127.0.0.1/8460
        printf "GET / HTTP/1.1\r\nHost: 127.0.0.1:8460\r\nConnection: close\r\n\r\n" >&3
        grep -q "200 OK" <&3' || return 1
    kill -TERM $!
    wait $! || [ $? -ge 128 ]
}
for word in "$@"; do
    echo "\$ ./dev $word"
    began=$(date +%s)
    case $word in
    live) live ;;
    *) ./dev $word </dev/null ;;
    esac || {
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
    mount --bind "$machine" "$machine" # a root of its own: packages boot in it
    for folder in dev sys; do mount --rbind "/$folder" "$machine/$folder"; done
    mount -t proc proc "$machine/proc"
    mount -t tmpfs tmpfs "$machine/run"
    cd "$machine"
    pivot_root . mnt
    umount -l /mnt
    exec /root/typed "$@"' fresh "$machine" "$@"
rm -rf --one-file-system "$to"
echo "fresh: $*: whole"
