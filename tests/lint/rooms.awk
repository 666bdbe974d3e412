# Reads the table of rooms, the list of files and every line that includes one, in
# this order; prints what may not be, and writes what needs what into `needs`.
function folder(path) {
    return path ~ /\// ? substr(path, 1, match(path, /\/[^\/]*$/) - 1) : "."
}
# Without "x/.." and "./".
function plain(path) {
    while (match(path, /(^|\/)[^\/.]+[^\/]*\/\.\.\//))
        path = substr(path, 1, RSTART - 1) (RSTART > 1 ? "/" : "") substr(path, RSTART + RLENGTH)
    gsub(/(^|\/)\.\//, "/", path)
    sub(/^\//, "", path)
    return path
}
function wrong(text) { print text; bad = 1 }

FILENAME == rooms {
    sub(/#.*/, "")
    if (NF == 0) next
    if ($1 == "private") {
        for (i = 2; i <= NF; i++) private[$i] = FNR
        next
    }
    if ($1 in row) wrong("rooms.txt:" FNR ": " $1 " has a row already")
    row[$1] = FNR
    for (i = 2; i <= NF; i++) {
        if ($i ~ /^@/ && !($i in list)) wrong("rooms.txt:" FNR ": there is no list " $i)
        if ($i ~ /^@/) {
            n = split(list[$i], more, " ")
            for (k = 1; k <= n; k++) may[$1, more[k]] = 1
        } else
            may[$1, $i] = 1
        if ($i !~ /^[@<]/ && $i !~ /\.h$/) uses[$1] = uses[$1] " " $i
        if ($1 ~ /^@/) list[$1] = list[$1] " " $i
    }
    next
}

# The list of files.
FILENAME ~ /\/files$/ {
    is[$0] = 1
    at = folder($0)
    if (!(at in row) && !(at in told)) {
        wrong(at ": has no row in tests/lint/rooms.txt; say what it may use")
        told[at] = 1
    }
    has[at] = 1
    next
}

{
    match($0, /:[0-9]+:/)
    file = substr($0, 1, RSTART - 1)
    where = substr($0, 1, RSTART + RLENGTH - 1)
    text = substr($0, RSTART + RLENGTH)
    seen++
    at = folder(file)
    if (match(text, /<[^>]*>/)) {
        name = substr(text, RSTART, RLENGTH)
        inner = substr(name, 2, RLENGTH - 2)
        if (("include/" inner) in is || inner ~ /\.\./)
            wrong(where " " name " is ours: include it by quotes")
        else if (!((at, name) in may) && !((at, "<>") in may))
            wrong(where " " at " may not include " name)
        next
    }
    if (!match(text, /"[^"]*"/)) {
        # a name that the build gives, for plans that are baked
        if (text !~ /CUP_USES|CUP_BAKED|PLAN|BOARD/) wrong(where " cannot be followed:" text)
        next
    }
    name = substr(text, RSTART + 1, RLENGTH - 2)
    target = plain(at "/" name)
    if (!(target in is)) target = plain("include/" name)
    if (!(target in is)) {
        # made by the build
        if (name !~ /^([a-z_]*plan|bed|cuplatch|test_.*\.inc|__fc_builtin)(\.h)?$/)
            wrong(where " there is no " name)
        next
    }
    room = folder(target)
    if (room == at) next
    stem = room
    below = 0
    while (stem ~ /\//) {
        stem = folder(stem)
        if ((at, stem "/*") in may) below = 1
    }
    if ((at, target) in may) next
    if (target in private)
        wrong(where " " target " is private to " room)
    else if (!((at, room) in may) && !below)
        wrong(where " " at " may not use " room)
}

END {
    if (seen < 1000) wrong("only " seen + 0 " includes were found")
    for (at in row) {
        if (at !~ /^@/ && !(at in has)) wrong("rooms.txt:" row[at] ": there is no code in " at)
        n = split(uses[at], used, " ")
        for (i = 1; i <= n; i++) {
            if (used[i] ~ /\/\*$/) continue
            if (!(used[i] in row)) wrong("rooms.txt:" row[at] ": " used[i] " is no row")
            if (at !~ /^@/) print at, used[i] >needs
        }
    }
    for (header in private)
        if (!(header in is)) wrong("rooms.txt:" private[header] ": there is no " header)
    exit bad
}
