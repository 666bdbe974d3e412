#!/bin/sh
# Holds figures in docs to what was measured: figures.sh MEASURED, a file of figures, a
# line each, "NAME: FIGURE". One in a doc that is off by more than a tenth fails, and so
# does one that is no longer where figures.txt has it.
set -eu
cd "$(dirname "$0")/../.."
awk -v measured="$1" '
    function plain(words) {
        gsub(/[][|().`+$^{}]/, "[&]", words)
        gsub(/\[\^\]/, "\\^", words)
        gsub(/\*/, "[^|]*", words)
        return words
    }
    BEGIN {
        while ((getline line < measured) > 0) {
            at = match(line, /: [0-9]+$/)
            known[substr(line, 1, at - 1)] = substr(line, at + 2)
        }
        FS = " [|] "
    }
    /^#/ {next}
    !($1 in known) {next}
    {
        words = substr($0, length($1) + length($2) + 7)
        text = ""
        while ((getline line < $2) > 0)
            text = text " " line
        close($2)
        gsub(/ +/, " ", text)
        # the words as a pattern; the figure is what is left of it without both ends
        split(words, part, "#")
        told = ""
        if (match(text, plain(part[1]) "[0-9,]*[0-9]" plain(part[2]))) {
            told = substr(text, RSTART, RLENGTH)
            sub("^" plain(part[1]), "", told)
            match(told, /^[0-9,]*/)
            told = substr(told, 1, RLENGTH)
        }
        gsub(/,/, "", told)
        looked++
        if (told == "") {
            printf "%s: no figure at: %s\n", $2, words
            bad = 1
        } else if (told * 10 > known[$1] * 11 || told * 11 < known[$1] * 10) {
            printf "%s: %s is %d, not %d\n", $2, $1, known[$1], told
            bad = 1
        }
    }
    END {
        if (!looked) {
            print "figures: none of " measured " is in docs"
            bad = 1
        }
        exit bad
    }' tests/lint/figures.txt
