#!/bin/sh
# Whether two builds of the packages are the same bytes: same.sh FOLDER OTHER. What is
# left out says when and where it was built: buildinfo, changes.
set -eu
bad=0
for file in "$1"/*.deb "$1"/*.tar.xz; do
    cmp "$file" "$2/$(basename "$file")" || bad=1
done
[ "$bad" -eq 0 ] && echo "package: $(ls "$1"/*.deb "$1"/*.tar.xz | wc -l) files, the same bytes twice"
exit "$bad"
