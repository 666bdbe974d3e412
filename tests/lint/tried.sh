#!/bin/sh
# What a list of the code has, some test tries: every form of raw values, every
# guard, every key of the site file.
set -eu
cd "$(dirname "$0")/../.."
scratch=$(mktemp -d)
trap 'rm -rf "$scratch"' EXIT
bad=0
# Every line that says KEY = WORD, in files of their own or in texts of a test.
git ls-files -co --exclude-standard -- tests examples cli/shapes | grep -E '\.(ini|c|txt|sh|mjs)$' |
    xargs sed 's/\\n/\n/g' | grep -oE '\b[a-z_]+ = [^"\\]*' | sort -u >"$scratch/said"

# tried WHAT PATTERN WHERE
tried() {
    grep -qE "$2" "$3" || {
        echo "$1: nothing in tests/ or examples/ tries it"
        bad=1
    }
}
codes() {
    printf '#include "cuplatch/%s.h"\n%s\n' "$1" "$2" | gcc -E -P -Iinclude -x c - |
        grep -oE '@ [^@]+ @' | sed 's/@//g; s/[" ]//g'
}
for form in $(codes sensor '#define X(name, code, ...) @ code @
CUP_FORMS(X)'); do
    tried "form = $form" "^form = $form( |\$)" "$scratch/said"
done
git ls-files -co --exclude-standard -- tests | grep -E '\.(c|txt)$' | xargs cat >"$scratch/tests"
for reason in $(codes reason '#define G(X, name, past, past_code, code, ...) @ code "-" past_code @
CUP_GUARDS(G, )'); do
    name=$(echo "$reason" | tr 'a-z-' 'A-Z_')
    tried "guard of $reason" "\\b(CUP_REASON_$name|$reason)\\b" "$scratch/tests"
done
grep -oE '(TIME|SHORT_TIME|LENGTH|PERCENT|FLOW|COUNTED|OTHER|ONE_OF|A_THING|WORDS)\("[a-z_]+"' \
    sitefile/read/schema.c | grep -oE '"[a-z_]+"' | tr -d '"' | sort -u >"$scratch/keys"
cat "$scratch/said" "$scratch/tests" >"$scratch/tries"
[ "$(wc -l <"$scratch/keys")" -gt 100 ] || { echo "too few keys found"; exit 1; }
while read -r key; do
    tried "key $key" "^$key = |say_[a-z]+\\(site, \"$key\"" "$scratch/tries"
done <"$scratch/keys"
[ "$bad" -eq 0 ] && echo "tried: forms, guards and $(wc -l <"$scratch/keys") keys"
exit "$bad"
