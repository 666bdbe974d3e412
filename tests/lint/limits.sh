#!/bin/sh
# Holds functions to 60 lines and a cyclomatic complexity of 10.
# pmccabe prints: complexity, traditional complexity, statements, first line,
# lines, file(definition line): function.
set -eu
# Scenario tables are macros that it cannot read; they hold no functions.
git ls-files -co --exclude-standard -- '*.c' | grep -vE 'test_(site|sensors|proof|duty|watch|bounds|leaps)' |
    xargs pmccabe |
    awk '$2 > 10 || $5 > 60 {
        printf "%s: complexity %d (at most 10), %d lines (at most 60)\n",
               $6 " " $7, $2, $5
        bad = 1
    } END { exit bad }'

# A file has at most 450 lines, unless it says in its head why it is one.
git ls-files -co --exclude-standard -- '*.c' '*.h' | grep -vE '^(tests|web)/' | while read -r file; do
    lines=$(wc -l <"$file")
    [ "$lines" -le 450 ] || sed '/\*\//q' "$file" | tr -s '\n *' ' ' | grep -q 'One file' || {
        echo "$file: $lines lines (at most 450, or its head says why it is One file)"
        exit 1
    }
done
