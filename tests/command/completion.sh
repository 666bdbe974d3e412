#!/bin/bash
# What bash and zsh offer when a line is begun. completion.sh BIN ROOT
set -euo pipefail
bin=$1
root=$2
scratch=$(mktemp -d)
running=""
trap 'kill $running 2>/dev/null || :; wait || :; rm -rf "$scratch"' EXIT
cd "$root/examples/keeper"

# A controller that runs, found without naming its socket.
cat >"$scratch/cuplatch" <<END
#!/bin/sh
[ "\$1" != ask ] || set -- "\$@" --socket "$scratch/socket"
exec "$bin/cuplatch" "\$@"
END
chmod +x "$scratch/cuplatch"
ln -s "$bin/cuplatch-serve" "$scratch/cuplatch-serve"
PATH=$scratch:$PATH
"$bin/cuplatch" run keeper.ini --port sim --garden keeper.garden.ini \
    --socket "$scratch/socket" 2>"$scratch/said" &
running=$!
tries=200
until [ -S "$scratch/socket" ]; do
    tries=$((tries - 1))
    [ "$tries" -gt 0 ] || { cat "$scratch/said"; exit 1; }
    sleep 0.05
done

# Each line: what is typed, a blank at its end for a new word, and all that is offered
# then.
cat >"$scratch/cases" <<'END'
cuplatch re:rehearse replay report
cuplatch ta:
cuplatch begin :beds line pot tray tunnel well
cuplatch check keeper.i:keeper.ini
cuplatch look kale.ini :header header_echo kale_soil
cuplatch look kale.ini --lo:--log
cuplatch calibrate kale.ini k:kale_soil
cuplatch rehearse keeper.ini --ga:--garden
cuplatch run keeper.ini --port :lines linux sim
cuplatch pins kale.ini kale.pins.ini --click :kale_pump
cuplatch ask l:levels
cuplatch ask why li:lift
cuplatch tell tray_p:tray_pump
cuplatch tell lift :auto clear hand off
cuplatch tell site :clock go hold quiet
cuplatch tell kale.st:kale.start kale.stop
cuplatch calibrate keeper.ini --time li:lift
cuplatch-serve --new-:--new-codes --new-key
END

cat >"$scratch/in.bash" <<'END'
. "$1/system/cuplatch.bash"
while IFS=: read -r typed offered; do
    read -r -a COMP_WORDS <<<"$typed"
    case $typed in *' ') COMP_WORDS+=("") ;; esac
    COMP_CWORD=$((${#COMP_WORDS[@]} - 1))
    case $typed in cuplatch-serve*) _cuplatch_serve ;; *) _cuplatch ;; esac
    echo "$typed:$(printf '%s\n' "${COMPREPLY[@]}" | sort | xargs)"
done
END
bash --norc "$scratch/in.bash" "$root" <"$scratch/cases" | diff "$scratch/cases" -
echo "bash: $(wc -l <"$scratch/cases") lines"

# The words that zsh would get, by its own functions in the place of those that show
# them; it keeps what begins as the word does by itself.
command -v zsh >/dev/null || {
    echo "zsh: left out, it is not here"
    exit 0
}
cat >"$scratch/in.zsh" <<'END'
compadd() { offered+=("$@") }
_describe() { offered+=(${${(P)2}%%:*}) }
_files() { offered+=(*.ini) }
while IFS=: read -r typed expected; do
    words=(${(z)typed})
    [[ $typed != *' ' ]] || words+=("")
    CURRENT=$#words
    PREFIX=$words[CURRENT]
    service=$words[1]
    offered=()
    source $1/system/_cuplatch
    offered=(${(oM)offered:#${PREFIX}*})
    print -r -- "$typed:${(j: :)offered}"
done
END
zsh -f "$scratch/in.zsh" "$root" <"$scratch/cases" | diff "$scratch/cases" -
echo "zsh: $(wc -l <"$scratch/cases") lines"
