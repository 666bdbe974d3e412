#!/bin/sh
# Makes the manual pages of docs/reference: pages.sh FOLDER VERSION LOWDOWN. They
# are written nowhere else.
set -eu
to=$1 version=$2 lowdown=$3
cd "$(dirname "$0")/../reference"
mkdir -p "$to"
rm -f "$to"/cuplatch*

# page NAME SECTION SAYS FILE [VARIABLE...]
page() {
    name=$1 section=$2 says=$3 file=$4
    shift 4
    awk -f ../man/page.awk -v name="$name" -v section="$section" -v says="$says" \
        -v version="$version" "$@" "$file" |
        "$lowdown" -s -tman --parse-no-autolink --parse-no-intraemph -o "$to/$name.$section"
}

all=""
for command in $(sed -n 's/^## cuplatch \([a-z]*\)$/\1/p' commands.md); do
    page "cuplatch-$command" 1 "" commands.md -v only="cuplatch $command" \
        -v also="cuplatch(1), cuplatch-site(5)"
    all="$all${all:+, }cuplatch-$command(1)"
done
page cuplatch-serve 8 "" commands.md -v only="cuplatch-serve" \
    -v also="cuplatch(1), cuplatch-serve(5), cuplatch-page(7), cuplatch-broker(7)"

# The command by itself: what all have in common, which there are, and the streams.
awk '/^## cuplatch/ {if (!told) print "## Commands\n\n| command | |\n|---|---|"
        told = 1; row = "`" substr($0, 4) "`"; skip = 1; next}
    skip && row != "" && NF {print "| " row " | " $0 " |"; row = ""}
    /^## / {skip = 0; if (told == 1) print ""; told = 2}
    !skip' commands.md >"$to/commands.md"
page cuplatch 1 "run pumps from moisture and tank levels, and never dry" \
    "$to/commands.md" -v also="$all, cuplatch-serve(8), cuplatch-site(5), cuplatch-garden(5), cuplatch-pins(5), cuplatch-history(5), cuplatch-socket(7), cuplatch-reasons(7), cuplatch(3)"
rm "$to/commands.md"

page cuplatch-site 5 "what a site has, and what its pumps are for" site-file.md \
    -v also="cuplatch-check(1), cuplatch-garden(5), cuplatch-pins(5)"
page cuplatch-garden 5 "what is physically there, for rehearsals" garden-file.md \
    -v also="cuplatch-rehearse(1), cuplatch-site(5)"
page cuplatch-pins 5 "what the ports of a site are on this machine" pins-file.md \
    -v also="cuplatch-pins(1), cuplatch-run(1), cuplatch-site(5)"
page cuplatch-serve 5 "what cuplatch-serve follows, keeps and tells" serve-file.md \
    -v also="cuplatch-serve(8), cuplatch-page(7), cuplatch-broker(7)"
page cuplatch-history 5 "what happened, in a SQLite file" history.md \
    -v also="cuplatch-report(1), cuplatch-plot(1), cuplatch-serve(8)"
page cuplatch-socket 7 "how a program talks to a controller that runs" socket.md \
    -v also="cuplatch-ask(1), cuplatch-tell(1), cuplatch-run(1)"
page cuplatch-broker 7 "what is told to an MQTT broker, and taken from it" broker.md \
    -v also="cuplatch-serve(8), cuplatch-serve(5)"
page cuplatch-page 7 "the page of cuplatch-serve, for programs" page.md \
    -v also="cuplatch-serve(8), cuplatch-serve(5)"
page cuplatch-reasons 7 "events, and the reasons in them" reasons.md \
    -v also="cuplatch(1), cuplatch-socket(7)"
page cuplatch 3 "the library: levels, latches, pumps and their guards" api.md \
    -v also="cuplatch(1)"
