# Writes files one after another with what they include of ours put in place,
# once. `seen` names headers that are there already.
function base(path) { sub(/.*\//, "", path); return path }
function put(path,    line, name) {
    if (base(path) in done) return
    done[base(path)] = 1
    while ((getline line < path) > 0) {
        if (line !~ /^#include "/) { print line; continue }
        name = line; gsub(/^#include "|".*$/, "", name)
        put(find(name, path))
    }
    close(path)
}
# A header of ours, beside the file that includes it or in include/.
function find(name, from,    at, line) {
    at = from; sub(/[^\/]*$/, "", at); at = at name
    if ((getline line < at) > 0) { close(at); return at }
    return "include/" name
}
BEGIN {
    count = split(seen, names, " ")
    for (i = 1; i <= count; i++) done[base(names[i])] = 1
    for (i = 1; i < ARGC; i++) put(ARGV[i])
}
