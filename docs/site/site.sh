#!/bin/sh
# The docs as a static site, in build/site: pages and what they link to, where they
# are in the tree, so that every link leads where it leads there. A link that leads
# nowhere, or a page that no list names, fails.
set -eu
cd "$(dirname "$0")/../.."
to=build/site-pages
rm -rf $to build/site
mkdir -p $to
pages="README.md CONTRIBUTING.md CHANGELOG.md LICENSE $(git ls-files -co --exclude-standard \
    -- 'docs/*.md' 'docs/screenshots/*.png' 'docs/reference/*.json' 'examples/*')"
for file in $pages; do
    mkdir -p "$to/$(dirname "$file")"
    cp "$file" "$to/$file"
done
mkdocs build --quiet --strict --config-file docs/site/mkdocs.yml
# Not pages of ours.
rm -rf build/site/sitemap.xml*
echo "build/site: $(find build/site -name '*.html' | wc -l) pages; serve it by any web server"
