#!/bin/sh
# Makes the source archive, which carries the built page, and of it, without any
# network, the Debian packages: package.sh FOLDER.
set -eu
cd "$(dirname "$0")/.."
mkdir -p "$1"
to=$(cd "$1" && pwd)
version=$(cmake/version.sh)
[ -e build/page/index.html ] || {
    echo "package: there is no page in build/page; ./dev page builds it" >&2
    exit 1
}

source=$to/cuplatch-$version
rm -rf "$source" "$to"/*.deb "$to"/*.tar.* "$to"/*.dsc "$to"/*.changes "$to"/*.buildinfo
mkdir -p "$source"
git ls-files -co --exclude-standard | while read -r file; do
    [ ! -e "$file" ] || echo "$file"
done | tar -cf - -T - | tar -xf - -C "$source"
cp -r build/page "$source/page"

# Debian's list of changes is made of ours.
awk '
    function tell() {
        if (said == "")
            return
        line = "  *"
        count = split(said, words, / +/)
        for (i = 1; i <= count; i++) {
            if (length(line " " words[i]) > 78) {
                print line
                line = "   "
            }
            line = line " " words[i]
        }
        print line
        said = ""
    }
    function end() {
        tell()
        if (date == "")
            return
        printf "\n -- The Cup Latch makers <makers@cuplatch.invalid>  "
        fflush()
        system("LC_ALL=C date -u -R -d " date "T12:00:00Z")
    }
    /^## [0-9]/ {
        end()
        if (date != "")
            print ""
        date = substr($3, 2, length($3) - 2)
        print "cuplatch (" $2 ") stable; urgency=medium\n"
        next
    }
    date == "" {next}
    {gsub(/`/, "")}
    /^- / {tell(); said = substr($0, 3); next}
    /^  / {said = said " " substr($0, 3)}
    END {end()}' CHANGELOG.md >"$source/debian/changelog"

cd "$source"
alone="unshare -n"
[ "$(id -u)" -eq 0 ] || alone="unshare -rn"
$alone dpkg-buildpackage -us -uc >"$to/build.log" 2>&1 || {
    tail -60 "$to/build.log" >&2
    exit 1
}
