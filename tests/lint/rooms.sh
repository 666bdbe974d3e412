#!/bin/sh
# Holds the rooms of the house to what each may use: an include that goes
# against the flow (measure, decide, act, tell) or out of its room fails.
set -eu

# Prints the includes of ROOM that match none of the allowed patterns.
strangers() {
    room=$1
    allowed=$2
    code=0
    grep -nE '^#include ["<]' -r "$room" --include='*.[ch]' |
        grep -vE "#include ($allowed)" || code=$?
    [ "$code" -eq 1 ] || {
        echo "$room may include only: $allowed" >&2
        exit 1
    }
}

base='"cuplatch/(base|reason)\.h"|<string\.h>'
measure='"(checks|spanned|value)\.h"|"cuplatch/(curve|window|sensor|tank|decode|echo|several|span)\.h"'
decide='"cuplatch/(latch|duty|dose|turn|day|speed|tries)\.h"'
act='"cuplatch/(pump|proof|per_day|travel|watch|alert|lamp|button|once|choice)\.h"'
strangers src/measure "$base|$measure"
strangers src/decide "$base|$measure|$decide"
strangers src/act "$base|$measure|$decide|$act"
strangers src/tell "$base|\"(texts|show)\.h\"|\"cuplatch/(say|console|panel)\.h\""
strangers src/modem '"cuplatch/modem\.h"|"modem_inside\.h"'
strangers src/site "$base|\"cuplatch/[a-z]+\.h\"|\"(inside|entry)\.h\""
strangers grammar '"cuplatch/|"[a-z_]+\.h"|<'
strangers ports '"cuplatch/|"[a-z_]+\.h"|"\.\./common/|"\.\./\.\./(garden/garden|grammar/text|pins/pins)\.h"|<'
strangers kept '"cuplatch/journal\.h"|"(days|ring|writer|writing)\.h"|"\.\./ports/common/store\.h"|<'
strangers history '"cuplatch/say\.h"|"(csv|history|inside|intake|outbox|read|schema|units)\.h"|<'
strangers serve '"(page/)?[a-z_]+\.h"|"cuplatch/(base|modem|say)\.h"|"\.\./(note|link|pause|people|private|words)\.h"|"\.\./ports/common/wall\.h"|"(\.\./)?\.\./(grammar|history)/[a-z]+\.h"|<'
strangers serve/page '"[a-z_]+\.h"|"\.\./(note|link|pause|people|private|words)\.h"|"\.\./\.\./(grammar/(edit|inifile)|history/(csv|read))\.h"|<'
strangers advice '"(bed|flow|middle|proposal|propose|quantity|series|track)\.h"|"cuplatch/say\.h"|<'
strangers report '"cuplatch/say\.h"|"(period|report)\.h"|"\.\./history/(read|units)\.h"|<'
strangers pins '"(pins|keys)\.h"|"\.\./(grammar/[a-z]+|sitefile/sitefile)\.h"|<'
strangers garden '"(inside|garden|section|fao56)\.h"|"cuplatch/say\.h"|"\.\./grammar/[a-z]+\.h"|<'
strangers socket '"cuplatch/(site|say|console)\.h"|"[a-z]+\.h"|"\.\./(ports/common/json|grammar/text)\.h"|<'
strangers sitefile '"cuplatch/|"(read/)?[a-z_]+\.h"|"\.\./(\.\./)?grammar/[a-z]+\.h"|"\.\./(inside|bake)\.h"|<'
strangers sitefile/read '"cuplatch/|"[a-z_]+\.h"|"\.\./\.\./grammar/[a-z]+\.h"|<'
strangers sitefile/plan '"cuplatch/|"(duty|making|shape|ports)\.h"|"\.\./inside\.h"|"\.\./\.\./grammar/[a-z]+\.h"|<'
strangers sitefile/explain '"cuplatch/|"explain\.h"|"\.\./inside\.h"|<'
strangers sitefile/bake '"cuplatch/|"(baking|fields)\.h"|"\.\./(inside|bake)\.h"|<'
strangers include '"[a-z_]+\.h"|<std(bool|def|int)\.h>'

# What a block leaves out is left out by CUP_IF and CUP_WHERE: no condition of the
# preprocessor stands inside a function of the core.
awk 'FNR == 1 {depth = 0}
    /^#if/ && depth > 0 {print FILENAME ":" FNR ": " $0 " inside a function"; bad = 1}
    !/^#/ {depth += gsub(/{/, "{") - gsub(/}/, "}")}
    END {exit bad}' src/*/*.[ch] >&2
