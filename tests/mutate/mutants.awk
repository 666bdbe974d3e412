# Lists small changes to C sources, one a line: file, line, column, length and
# what stands there instead, with tabs between. Comments, directives, asserts
# and includes are left alone.
function emit(at, length_, new) {
    printf "%s\t%d\t%d\t%d\t%s\n", FILENAME, FNR, at, length_, new
}
# Every place of `old` in the line, as a whole operator.
function each(old, new,    at, from) {
    from = 1
    while ((at = index(substr(line, from), old)) > 0) {
        at += from - 1
        emit(at + 1, length(old) - 2, new)
        from = at + length(old) - 1
    }
}
FNR == 1 { comment = 0 }
{
    line = $0
    if (line ~ /^[ \t]*\/\*/) comment = 1
    was = comment
    if (line ~ /\*\//) comment = 0
    if (was || line ~ /^#/ || line ~ /_Static_assert|CUP_INVARIANT/) next
    if (line ~ /^static (const|CUP_FLASH)|^struct|^enum|^    "/) next
    sub(/\/\*.*/, "", line)
    each(" < ", "<="); each(" <= ", "<")
    each(" > ", ">="); each(" >= ", ">")
    each(" == ", "!="); each(" != ", "==")
    each(" && ", "||"); each(" || ", "&&")
    if (line !~ /\*[a-z]/) { each(" + ", "-"); each(" - ", "+") }
    # a condition that never holds: what it guards is dropped
    if ((at = index(line, "if (")) > 0) emit(at + 4, 0, "false && ")
    # a negation dropped
    rest = line; from = 0
    while (match(rest, /![a-z(]/)) {
        emit(from + RSTART, 1, "")
        from += RSTART + 1; rest = substr(rest, RSTART + 2)
    }
    # a constant that is one more
    rest = line; from = 0
    while (match(rest, /[ (\[-][0-9]+[u;, )\]]/)) {
        number = substr(rest, RSTART + 1, RLENGTH - 2)
        emit(from + RSTART + 1, length(number), sprintf("%.0f", number + 1))
        from += RSTART + RLENGTH - 2; rest = substr(rest, RSTART + RLENGTH - 1)
    }
}
