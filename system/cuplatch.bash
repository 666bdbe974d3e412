# Completion of cuplatch and cuplatch-serve for bash. Options are those that a
# command's --help tells; things come of the site file on the line, or of the
# controller that runs.

# _cuplatch_options COMMAND [SUBCOMMAND]
_cuplatch_options() {
    "$@" --help 2>/dev/null | grep -oE -- '--[a-z-]+' | sort -u
}

# _cuplatch_things FILE KINDS: names of the sections of these kinds.
_cuplatch_things() {
    awk -v kinds="$2" '
        /^[ \t]*\[/ {name = $0; gsub(/.*\[|\].*/, "", name)}
        /^[ \t]*is[ \t]*=/ {
            kind = $0; sub(/^[^=]*=[ \t]*/, "", kind); sub(/[ \t;#].*/, "", kind)
            if (kind ~ "^(" kinds ")$") print name}' "$1" 2>/dev/null
}

# What a controller that runs has: _cuplatch_live QUESTION, first words.
_cuplatch_live() {
    cuplatch ask "$1" 2>/dev/null | sed 's/[ :].*//'
}

_cuplatch_outputs='pump|valve|fan|lamp|vent|sounder'

# What may stand where no option does: _cuplatch_words COMMAND SITE PLACE BEFORE
_cuplatch_words() {
    case $1 in
    begin) echo pot beds tunnel tray line well ;;
    ask)
        if [ "$4" = why ]; then
            _cuplatch_live pumps
            _cuplatch_live duties
        else
            echo levels pumps duties days alerts settings why
        fi
        ;;
    tell)
        case $3 in
        1)
            _cuplatch_live pumps
            _cuplatch_live duties
            _cuplatch_live settings
            echo site
            ;;
        2) if [ "$4" = site ]; then echo hold go quiet clock; else echo hand off auto clear; fi ;;
        esac
        ;;
    look) [ "$3" -lt 2 ] || _cuplatch_things "$2" 'sensor|tank' ;;
    calibrate) [ "$3" -lt 2 ] || _cuplatch_things "$2" sensor ;;
    esac
}

_cuplatch() {
    local word=${COMP_WORDS[COMP_CWORD]} before=${COMP_WORDS[COMP_CWORD - 1]}
    local command=${COMP_WORDS[1]} site="" place=0 at choices=""
    COMPREPLY=()
    if [ "$COMP_CWORD" -eq 1 ]; then
        choices=$(cuplatch --help 2>/dev/null | sed -n 's/^  \([a-z]*\) .*/\1/p' | grep -vx cuplatch)
        mapfile -t COMPREPLY < <(compgen -W "$choices --help --version" -- "$word")
        return
    fi
    # the site is the first word of the command that is a file of ours; the place of
    # the word that is written counts those that are no options
    for ((at = 2; at <= COMP_CWORD; at++)); do
        case ${COMP_WORDS[at]} in
        -*) continue ;;
        *.ini) [ -n "$site" ] || site=${COMP_WORDS[at]} ;;
        esac
        place=$((place + 1))
    done
    case $before in
    --port | -p) choices="linux lines sim" ;;
    --click) choices=$(_cuplatch_things "$site" "$_cuplatch_outputs") ;;
    --time) choices=$(_cuplatch_live pumps) ;;
    --until) choices=$(_cuplatch_live levels) ;;
    *)
        case $word in
        -*) choices=$(_cuplatch_options cuplatch "$command") ;;
        *) choices=$(_cuplatch_words "$command" "$site" "$place" "$before") ;;
        esac
        ;;
    esac
    mapfile -t COMPREPLY < <(compgen -W "$choices" -- "$word")
    [ -n "$choices" ] || mapfile -t COMPREPLY < <(compgen -f -- "$word")
    [ "${#COMPREPLY[@]}" -ne 1 ] || [ ! -d "${COMPREPLY[0]}" ] || compopt -o nospace 2>/dev/null
}

_cuplatch_serve() {
    local word=${COMP_WORDS[COMP_CWORD]} before=${COMP_WORDS[COMP_CWORD - 1]}
    COMPREPLY=()
    case $before in
    --tell | --ask | --new-key | --drop-key | --new-codes) return ;;
    esac
    case $word in
    -*) mapfile -t COMPREPLY < <(compgen -W "$(_cuplatch_options cuplatch-serve)" -- "$word") ;;
    *) mapfile -t COMPREPLY < <(compgen -f -- "$word") ;;
    esac
}

complete -o filenames -F _cuplatch cuplatch
complete -o filenames -F _cuplatch_serve cuplatch-serve
