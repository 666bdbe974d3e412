#!/bin/sh
# Within the machine that package.sh boots: types what docs/howto/install.md says to
# type, with the version before; upgrades while a pump runs; takes all away again.
set -eu
cd /srv/proof
. ./versions

fail() {
    echo "package: $*"
    journalctl --no-pager -o cat -n 60 -u 'cuplatch*' || true
    exit 1
}

# until_true SECONDS WHAT COMMAND...: waits for it, a tenth of a second at a time.
until_true() {
    tries=$(($1 * 10))
    what=$2
    shift 2
    until "$@" >/dev/null 2>&1; do
        tries=$((tries - 1))
        [ "$tries" -gt 0 ] || fail "waited for: $what"
        sleep 0.1
    done
}
on() { grep -q 3 /srv/garden/coils; }
off() { ! on; }
pid() { systemctl show -P MainPID "$1"; }
is_now() { [ "$(readlink "/proc/$(pid "$1")/exe")" = "/usr/bin/${1%@*}" ]; }
other_pid() { [ "$(pid cuplatch@garden)" != "$1" ] && [ "$(pid cuplatch@garden)" != 0 ]; }
page() {
    bash -c 'exec 3<>/dev/tcp/127.0.0.1/8460
        printf "GET %s HTTP/1.1\r\nHost: 127.0.0.1:8460\r\nConnection: close\r\n\r\n" "$1" >&3
        cat <&3' page "$1"
}
page_answers() { page / | grep -q '^HTTP/1.1 200'; }

# typed TITLE: each line that this part of the page says to type. Who did what the
# page says has files of his own, a moment after the examples were copied.
typed() {
    awk -v title="## $1" '
        /^# / {part = "## Install it"}
        /^## / {part = $0}
        part == title && (/^    \$ / || more) {
            sub(/^ +(\$ )?/, "")
            more = /\|$/
            printf "%s%s", $0, more ? " " : "\n"
        }' /srv/proof/install.md >lines
    [ -s lines ] || fail "the page says nothing to type at: $1"
    while read -r line; do
        echo "\$ $line"
        sh -ec "$line" </dev/null >said 2>&1 || {
            cat said
            fail "what the page says to type failed: $line"
        }
        case $line in *examples/machine*) cp /srv/proof/garden.ini /srv/proof/garden.pins.ini /etc/cuplatch ;; esac
    done <lines
}

printf '#!/bin/sh\nexec "$@"\n' >/usr/local/bin/sudo
chmod +x /usr/local/bin/sudo
echo 'APT::Get::Assume-Yes "true";' >/etc/apt/apt.conf.d/90proof
mkdir -p /srv/garden
echo 1500 >/srv/garden/soil
echo 4000 >/srv/garden/level
systemd-run --quiet --unit=coils /srv/proof/coils 1502 /srv/garden/coils

cd /srv/proof/before
typed "Install it"
cuplatch --version | grep -q "$before" || fail "it is not the version before"
id cuplatch >/dev/null
id cuplatch-serve | grep -q dialout || fail "cuplatch-serve is no member of dialout"
systemctl is-active --quiet cuplatch-serve && fail "it serves without a file"
echo "installed: $(cuplatch --version)"

useradd -m mara
typed "Two files and a service"
systemd-analyze verify --man=no cuplatch@garden.service cuplatch-serve.service 2>&1 |
    grep -i cuplatch && fail "the units are not clean"
until_true 20 "the first value" sh -c 'cuplatch ask levels | grep -q "butt .*%"'
echo "runs: $(cuplatch ask levels | tail -1)"
off || fail "the pump is on at once"

# Its group may talk to it, and nobody else.
useradd gardener
runuser -u gardener -- cuplatch ask levels >/dev/null 2>&1 &&
    fail "whoever is in no group of ours was answered"
runuser -u mara -- cuplatch ask levels >/dev/null || fail "its group is not answered"
for unit in cuplatch@garden cuplatch-serve; do
    said=$(systemd-analyze security --no-pager --threshold=20 "$unit.service") ||
        fail "$unit is exposed by more than 2.0 of 10"
    echo "$said" | tail -1
done

# What it is set to is kept; what it is killed with is off, and it comes again.
cuplatch tell herbs.start 40% >/dev/null
cuplatch tell herb_pump hand 5m >/dev/null
until_true 5 "the pump, by hand" on
before_kill=$(pid cuplatch@garden)
kill -9 "$before_kill"
until_true 5 "off after a kill" off
until_true 20 "a new controller" other_pid "$before_kill"
until_true 20 "its answer" cuplatch ask levels
cuplatch ask settings | grep -q 'herbs.start 40' || fail "a setting was lost: $(cuplatch ask settings)"
off || fail "the pump is on after a kill"
echo "killed: off, and started again"

# The page. No time server reaches this machine.
mkdir -p /etc/systemd/system/cuplatch-serve.service.d
printf '[Service]\nEnvironment=CUPLATCH_SERVE_OPTIONS=--trust-clock\n' \
    >/etc/systemd/system/cuplatch-serve.service.d/clock.conf
systemctl daemon-reload
typed "History and page"
cuplatch-serve /etc/cuplatch/serve.ini --new-key otto >/dev/null 2>&1
[ "$(stat -c '%U %a' /var/lib/cuplatch-serve/keys)" = "cuplatch-serve 600" ] ||
    fail "the keys are not the service's: $(stat -c '%U %a' /var/lib/cuplatch-serve/keys)"
until_true 10 "the page" page_answers
page /page.js | grep -q '^HTTP/1.1 200' || fail "the page is not whole"
echo "page: answers at 127.0.0.1:8460"

# An upgrade while the pump runs: it runs on, by what was started; then, when it
# rests, by what is installed.
cuplatch tell herb_pump hand 12s >/dev/null
until_true 5 "the pump, by hand" on
old=$(pid cuplatch@garden)
export CUPLATCH_RENEW_PAUSE=1
cd /srv/proof/now
typed "An upgrade"
cuplatch --version | grep -q "$now" || fail "it is not the version now"
on || fail "the upgrade put the pump off"
[ "$(pid cuplatch@garden)" = "$old" ] || fail "the upgrade started the controller again"
until_true 30 "the end of the run" off
journalctl -u cuplatch@garden -o cat | grep -q 'hand run of herb_pump is over after 12 s' ||
    fail "the run was cut short"
until_true 40 "a controller of this version" is_now cuplatch@garden
until_true 20 "its answer" cuplatch ask levels
cuplatch ask settings | grep -q 'herbs.start 40' || fail "the upgrade lost a setting"
until_true 20 "the page of this version" page_answers
is_now cuplatch-serve || fail "cuplatch-serve is of the version before"
echo "upgraded: $(cuplatch --version); the run was not cut, the setting is kept"

# A file that was changed is read anew; one that is wrong is not.
sed -i 's/^start = 38%/start = 37%/' /etc/cuplatch/garden.ini
systemctl reload cuplatch@garden
until_true 20 "the changed file" sh -c 'cuplatch ask settings | grep -q "herbs.start 37"'
sed -i 's/^start = 37%/start = 370%/' /etc/cuplatch/garden.ini
systemctl reload cuplatch@garden 2>/dev/null && fail "a reload that was refused says it was done"
until_true 20 "what is wrong with it" sh -c \
    'journalctl -u cuplatch@garden -o cat | grep -q "garden.ini:.*start = 370%"'
cuplatch ask settings | grep -q 'herbs.start 37' || fail "a file that is wrong was taken"
sed -i 's/^start = 370%/start = 37%/' /etc/cuplatch/garden.ini
echo "reloaded: by what is right, and not by what is wrong"

# What happened is all there.
until_true 15 "the history" sh -c \
    'cuplatch report /var/lib/cuplatch-serve/history.db | grep -q herb_pump'
cuplatch report /var/lib/cuplatch-serve/history.db >told
sed -n 1,12p told
grep "starts a day" told && fail "two minutes are no day"

# Taken away: off, and what a person wrote is there still.
cuplatch tell herb_pump hand 5m >/dev/null
until_true 5 "the pump, by hand" on
typed "Away with it"
until_true 10 "off after it was taken away" off
systemctl is-active --quiet cuplatch@garden && fail "it runs after it was taken away"
[ -e /usr/bin/cuplatch ] && fail "it is still there"
[ -e /var/lib/cuplatch/garden/journal ] || fail "its journal is gone"
[ -e /var/lib/cuplatch-serve/history.db ] || fail "the history is gone"
dpkg -P cuplatch cuplatch-serve >/dev/null 2>&1
[ -e /etc/cuplatch/garden.ini ] || fail "a purge took what a person wrote"
left=$(find /usr /lib /var/lib -path /var/lib/dpkg -prune -o -name '*cuplatch*' -print)
[ -z "$left" ] || fail "left after a purge: $left"
echo "removed: pump off, files of a person kept"
echo "package: whole"
