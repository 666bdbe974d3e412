# Makes of a page of our Markdown what lowdown makes a manual page of: titles are
# NAME and so on, tables are lists, a link is the page that it leads to.
#   awk -f page.awk -v name=cuplatch-look -v section=1 -v version=0.2.0 \
#       [-v says="one line"] [-v only="cuplatch look"] [-v also="..."] FILE
# `only` is the one part of the file that is wanted, with its options.
BEGIN {
    page["site-file.md"] = "cuplatch-site(5)"
    page["garden-file.md"] = "cuplatch-garden(5)"
    page["pins-file.md"] = "cuplatch-pins(5)"
    page["serve-file.md"] = "cuplatch-serve(5)"
    page["history.md"] = "cuplatch-history(5)"
    page["socket.md"] = "cuplatch-socket(7)"
    page["broker.md"] = "cuplatch-broker(7)"
    page["page.md"] = "cuplatch-page(7)"
    page["reasons.md"] = "cuplatch-reasons(7)"
    page["commands.md"] = "cuplatch(1)"
    print "title: " name
    print "section: " section
    print "source: Cup Latch " version
    print "volume: Cup Latch\n"
    within = only == ""
}

function plain(text,    at, link, target, said) {
    while (match(text, /!?\[[^]]*\]\([^)]*\)/)) {
        link = substr(text, RSTART, RLENGTH)
        target = said = link
        sub(/^!?\[/, "", said)
        sub(/\]\(.*/, "", said)
        sub(/.*\]\(/, "", target)
        sub(/[#)].*/, "", target)
        if (link ~ /^!/)
            said = ""
        else if (target in page && page[target] != name "(" section ")")
            said = said " (" page[target] ")"
        text = substr(text, 1, RSTART - 1) said substr(text, RSTART + RLENGTH)
    }
    return text
}

function trimmed(text) {
    gsub(/^[ \t]+|[ \t]+$/, "", text)
    return text
}

# A row's first cell, and where the last title is empty the next ones, too, are
# what it is of; the rest is what is said, with the titles before it.
function row(line,    cells, count, i, of, said, terms) {
    gsub(/\\\|/, "\001", line)
    sub(/^\| */, "", line)
    sub(/ *\| *$/, "", line)
    count = split(line, cells, /\|/)
    if (heads == 0) {
        for (i = 1; i <= count; i++)
            head[i] = trimmed(cells[i])
        heads = count
        return
    }
    if (line ~ /^[-| :]+$/)
        return
    terms = heads > 2 && head[heads] == "" ? heads - 1 : 1
    for (i = 1; i <= count; i++) {
        cells[i] = trimmed(cells[i])
        gsub(/\001/, "|", cells[i])
        if (i <= terms)
            of = of (of == "" || cells[i] == "" ? "" : " ") cells[i]
        else if (cells[i] != "" && cells[i] != "-")
            said = said (said == "" ? "" : "; ") \
                (heads > 2 && head[i] != "" ? head[i] ": " : "") cells[i]
    }
    gsub(/\*\*/, "", of)
    print of "\n: " (said == "" ? "." : said) "\n"
}

function flush() {
    if (para != "")
        print plain(para)
    para = ""
}

function title(text) {
    flush()
    print "\n# " (text ~ /`/ ? text : toupper(text)) "\n"
}

only != "" && /^## / { within = $0 == "## " only; if (within) part = 1; next }
!within { next }
/^```/ { flush(); fenced = !fenced; print ""; next }
fenced { print "    " $0; next }
/^# / { next }
part == 1 && NF { says = $0; part = 2
    title("name"); print name " - " says
    title("synopsis"); next }
part == 2 && /^    / { print plain("`" substr($0, 5) "`") "  "; typed = 1; next }
part == 2 && NF { title("description"); part = 3 }
!begun && part == 0 && NF {
    begun = 1
    title("name"); print name " - " says
    title("description")
}
/^\| option \| \|$/ && only != "" { title("options") }
/^## / { title(substr($0, 4)); next }
/^### / { flush(); print "\n## " substr($0, 5) "\n"; next }
/^\|/ { flush(); row($0); next }
{ heads = 0 }
/^    / && para == "" { print; next }
NF == 0 { flush(); print ""; next }
{ para = para (para == "" ? "" : "\n") $0 }

END {
    if (only != "") {
        title("exit status")
        print "0: done; 1: the answer is no; 2: wrong use; 3: something outside failed."
    }
    if (also != "") {
        title("see also")
        print also
    }
    flush()
}
