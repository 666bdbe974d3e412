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
